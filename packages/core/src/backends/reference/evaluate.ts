import { testGrid } from '../../image/test-grid.ts';
import { finite, type Value } from '../../ir/kinds.ts';
import { evaluateFrame, pixelInput, valueOf, zeros, type FrameInputs, type PixelInputs } from '../../ir/evaluate.ts';
import { inOrder, type Node } from '../../ir/node.ts';
import type { ImageSource, PixelImage } from '../../image/pixels.ts';
import { readImage } from './images.ts';

/** The judge among the back ends: plain, scalar, one node after the other, floats of 32 bits a pixel. */
export class Reference {
  readonly #order: readonly Node[];
  #frame = new Map<Node, Value>();
  #grid: PixelImage | undefined;

  constructor(
    readonly roots: readonly Node[],
    readonly images: ImageSource = () => undefined,
  ) {
    this.#order = inOrder(roots).filter((n) => n.frequency === 'pixel');
  }

  /** Moves to a moment; pixels are evaluated there from now on. */
  setFrame(frame: FrameInputs): void {
    const values = evaluateFrame(this.roots, frame);
    this.#frame = new Map(
      [...values].map(([node, value]) => [node, node.type.startsWith('f') ? value.map(Math.fround) : value]),
    );
  }

  /** The roots' values at one pixel; what is not finite is 0. */
  pixel(inputs: PixelInputs): Value[] {
    const values = new Map(this.#frame);
    const of = (node: Node): Value => values.get(node) ?? zeros(node);
    for (const node of this.#order) {
      if (node.kind === 'input') values.set(node, pixelInput(inputs, node.payload).map(Math.fround));
      else if (node.kind === 'sample') {
        const [u = 0, v = 0] = of(node.args[0]!);
        const image = this.images(node.payload) ?? (this.#grid ??= testGrid());
        values.set(node, readImage(image, node.payload, u, v));
      } else values.set(node, valueOf(node, node.args.map(of), Math.fround));
    }
    return this.roots.map((root) => of(root).map(finite));
  }
}
