import { widthOf, type IrType } from '../../ir/node.ts';

export interface Placed {
  readonly name: string;
  readonly type: IrType;
  /** Bytes from the start of the block. */
  readonly offset: number;
  /** Bytes left free before it. */
  readonly padding: number;
}

/** Where the fields of a block lie by the rules of std140 (OpenGL 4.6, 7.6.2.2), and how many bytes it takes. */
export function std140(fields: readonly { readonly name: string; readonly type: IrType }[]): {
  readonly fields: readonly Placed[];
  readonly size: number;
} {
  let end = 0;
  const placed = fields.map(({ name, type }): Placed => {
    const width = widthOf(type);
    const align = width === 1 ? 4 : width === 2 ? 8 : 16;
    const offset = Math.ceil(end / align) * align;
    const padding = offset - end;
    end = offset + 4 * width;
    return { name, type, offset, padding };
  });
  return { fields: placed, size: Math.ceil(end / 16) * 16 };
}
