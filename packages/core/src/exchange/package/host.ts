import type { Dial, DialType, Program } from '../../check/program.ts';
import type { SettingValues } from '../../check/values.ts';
import { internalUnits, userValue } from '../../backends/dial-units.ts';
import type { ShaderMaterial } from '../../backends/shader/emit.ts';
import { atom, type HostWriter } from '../../backends/host/body.ts';
import type { Term } from '../../backends/host/dialect.ts';
import type { Names } from '../../backends/names.ts';
import { scalarOf, widthOf, type Node } from '../../ir/node.ts';
import type { Return } from '../../prove/return.ts';

/** What the code of a host is written from. */
export interface HostModel {
  readonly program: Program;
  readonly values: SettingValues;
  /** Its fields of dials and of the frame have the names that all targets use. */
  readonly shader: ShaderMaterial;
  /** After how long all comes round, if it is known: whole frames. */
  readonly returns: Return | undefined;
}

const UNITS: Readonly<Record<DialType, string>> = {
  number: 'number',
  laps: 'laps a loop',
  rate: 'a second',
  time: 'seconds',
  angle: 'degrees',
  vec2: 'two numbers',
  color: 'linear RGBA',
};
/** The unit of a dial's values, in words. */
export const unitOf = ({ type }: Dial): string => UNITS[type];

/** The statements of the frame, and each field's components; `component` reads part `i` of a dial's field. */
export function frameBody(
  { program, shader }: HostModel,
  writer: HostWriter,
  names: Names,
  seconds: string,
  component: (field: string, width: number, i: number) => string,
): { readonly lines: readonly string[]; readonly fields: readonly Term[][] } {
  const given = (node: Node): readonly Term[] | undefined => {
    if (node.kind !== 'uniform') return undefined;
    const source = node.payload;
    if (source === 'time') return [atom(seconds)];
    const field = shader.dials.find((d) => d.dial.name === source.dial);
    if (!field) return undefined;
    const { times, over } = internalUnits(field.dial, program.loop);
    const width = widthOf(field.type);
    return Array.from({ length: width }, (_, i) => {
      const text = component(field.name, width, i);
      if (times !== 1) return { text: `${text} * ${writer.dialect.literal('f', times).text}`, level: 2 };
      return over === 1 ? atom(text) : { text: `${text} / ${writer.dialect.literal('f', over).text}`, level: 2 };
    });
  };
  const { lines, results } = writer.body({
    roots: shader.uniforms.map((u) => u.node),
    names,
    given,
    called: (node) => shader.uniforms.find((u) => u.node === node)?.name,
  });
  // Truth is handed over as an unsigned number.
  const fields = results.map((terms, k) =>
    scalarOf(shader.uniforms[k]!.node.type) === 'b' ? terms.map((t) => atom(`(${t.text} ? 1 : 0)`)) : terms,
  );
  return { lines, fields };
}

/**
 * Whether the dials that all comes round by are as they were when the code was written: comparisons, to be joined by
 * and; none where it comes round whatever they are.
 */
export function periodTests(
  { program, shader, values, returns }: HostModel,
  literal: (value: number) => string,
  component: (field: string, width: number, i: number) => string,
  equal: string,
): string[] {
  return shader.dials
    .filter(({ dial }) => returns?.dials.includes(dial))
    .flatMap(({ name, type, dial }) =>
      userValue(dial, values.dials.get(dial.name) ?? dial.value, program.loop).map(
        (value, i) => `${component(name, widthOf(type), i)} ${equal} ${literal(value)}`,
      ),
    );
}
