/** What of a GLB's JSON is looked at in tests. */
export interface GlbJson {
  readonly asset: { readonly extras: { readonly estela: unknown } };
  readonly extensionsRequired?: readonly string[];
  readonly extensions?: {
    readonly KHR_materials_variants?: { readonly variants: readonly { readonly name: string }[] };
  };
  readonly materials: readonly {
    readonly name: string;
    readonly alphaMode?: string;
    readonly emissiveFactor?: readonly number[];
    readonly pbrMetallicRoughness?: { readonly baseColorFactor?: readonly number[] };
    readonly extensions?: { readonly KHR_materials_emissive_strength?: { readonly emissiveStrength: number } };
  }[];
  readonly images?: readonly { readonly mimeType: string }[];
  readonly cameras?: readonly unknown[];
  readonly nodes: readonly {
    readonly camera?: number;
    readonly children?: readonly number[];
    readonly extensions?: { readonly EXT_mesh_gpu_instancing?: unknown };
  }[];
  readonly meshes: readonly { readonly primitives: readonly { readonly attributes: object }[] }[];
  readonly accessors: readonly { readonly count: number; readonly type: string }[];
  readonly animations: readonly {
    readonly samplers: readonly { readonly input: number; readonly output: number }[];
    readonly channels: readonly {
      readonly sampler: number;
      readonly target: {
        readonly path: string;
        readonly extensions?: { readonly KHR_animation_pointer?: { readonly pointer: string } };
      };
    }[];
  }[];
}

/** The JSON of a GLB (glTF 2.0, 4.4). */
export function jsonOf(bytes: Uint8Array): GlbJson {
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as Partial<GlbJson>;
  return { ...json, animations: json.animations ?? [], materials: json.materials ?? [] } as GlbJson;
}

const WIDTHS: Readonly<Record<string, number>> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4 };

/** Animation pointers of a GLB that name nothing in it, or not what their keys give (RFC 6901). */
export function unresolved(bytes: Uint8Array): string[] {
  const json = jsonOf(bytes);
  return json.animations.flatMap(({ channels, samplers }) =>
    channels.flatMap(({ sampler, target }) => {
      const pointer = target.extensions?.KHR_animation_pointer?.pointer;
      if (target.path !== 'pointer') return pointer === undefined ? [] : [`${pointer}: beside the path ${target.path}`];
      if (pointer === undefined) return ['a path without its pointer'];
      let part: unknown = json;
      for (const name of pointer
        .split('/')
        .slice(1)
        .map((n) => n.replaceAll('~1', '/').replaceAll('~0', '~')))
        part = (part as Readonly<Record<string, unknown>> | undefined)?.[name];
      const width = typeof part === 'number' ? 1 : Array.isArray(part) ? part.length : 0;
      const { input, output } = samplers[sampler]!;
      const [times, values] = [json.accessors[input]!, json.accessors[output]!];
      if (width === 0) return [`${pointer}: nothing is there`];
      if (WIDTHS[values.type] !== width) return [`${pointer}: ${values.type} for ${String(width)} numbers`];
      return times.count === values.count ? [] : [`${pointer}: ${String(values.count)} values`];
    }),
  );
}
