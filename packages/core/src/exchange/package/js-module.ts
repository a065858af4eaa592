import { HostWriter } from '../../backends/host/body.ts';
import { JAVASCRIPT } from '../../backends/host/javascript.ts';
import { scalarOf, widthOf } from '../../ir/node.ts';
import { hexOfColor } from '../../ops/value-type.ts';
import type { Program } from '../../check/program.ts';
import { settingValues } from '../../check/values.ts';
import type { ShaderMaterial } from '../../backends/shader/emit.ts';
import { userValue } from '../../backends/dial-units.ts';
import { frameBody, periodTests, unitOf, type HostModel } from './host.ts';

const part = (name: string, width: number, i: number): string => (width === 1 ? name : `${name}[${String(i)}]`);
const one = (values: readonly number[]): number | readonly number[] => (values.length === 1 ? values[0]! : values);

/** A dial as the module and the manifest list it: values in Wake's units. */
export function dialsOf({
  program,
  shader,
  values,
}: Pick<HostModel, 'program' | 'shader' | 'values'>): Record<string, object> {
  return Object.fromEntries(
    shader.dials.map(({ name, dial }) => {
      const user = (value: readonly number[]): number | readonly number[] => one(userValue(dial, value, program.loop));
      const bound = (value: number | undefined): number | undefined =>
        value === undefined ? undefined : userValue(dial, [value], program.loop)[0];
      const value = values.dials.get(dial.name) ?? dial.value;
      return [
        name,
        {
          type: dial.type,
          unit: unitOf(dial),
          default: user(value),
          ...(dial.type === 'color' ? { hex: hexOfColor(value) } : {}),
          min: bound(dial.low),
          max: bound(dial.high),
          step: bound(dial.step),
          help: dial.help,
        },
      ];
    }),
  );
}

/** All dials of each variant, in Wake's units, by the dials' fields. */
export const variantsOf = (program: Program, shader: ShaderMaterial): Record<string, object> =>
  Object.fromEntries(
    program.variants.map((v) => {
      const { dials } = settingValues(program, v.name);
      const user = shader.dials.map(
        ({ name, dial }) => [name, one(userValue(dial, dials.get(dial.name) ?? dial.value, program.loop))] as const,
      );
      return [v.name, Object.fromEntries(user)];
    }),
  );

/** An ES module without dependencies: dials, variants, and the values of a frame. */
export function jsModule(model: HostModel): string {
  const { program, shader, returns } = model;
  const { loop } = program;
  const writer = new HostWriter(JAVASCRIPT, '');
  for (const exported of ['dials', 'variants', 'loop', 'frame', 'frameAt', 'defaults', 'returns', 'given'])
    writer.globals.take(exported);
  const names = writer.globals.within();
  const [values, given, seconds] = ['values', 'given', 'seconds'].map((n) => names.take(n)) as [string, string, string];
  const body = frameBody(model, writer, names, seconds, (field, width, i) => part(`${given}.${field}`, width, i));
  const literal = (value: number): string => JAVASCRIPT.literal('f', value).text;
  const field = (k: number): string => {
    const { type } = shader.uniforms[k]!;
    const terms = body.fields[k]!.map((t) => (scalarOf(type) === 'f' ? `Math.fround(${t.text})` : t.text));
    return widthOf(type) === 1 ? terms[0]! : `[${terms.join(', ')}]`;
  };
  const period = returns && literal(returns.seconds);
  const frames = String(returns ? returns.loops * loop.frames : 0);
  const tests = periodTests(model, literal, (name, width, i) => part(`given.${name}`, width, i), '===');
  return [
    JAVASCRIPT.comment(`${program.title || 'Untitled'}: the values of a frame, computed in doubles.`),
    '',
    `export const loop = ${JSON.stringify({ seconds: loop.seconds, fps: loop.fps, period: returns?.seconds ?? null })};`,
    '',
    `export const dials = ${JSON.stringify(dialsOf(model), undefined, 2)};`,
    '',
    `export const variants = ${JSON.stringify(variantsOf(program, shader), undefined, 2)};`,
    '',
    'const defaults = Object.fromEntries(Object.entries(dials).map(([name, dial]) => [name, dial.default]));',
    '',
    ...(period === undefined
      ? []
      : [
          '/** Whether everything repeats after the period, which depends on the dials. */',
          `const returns = (given) => ${tests.join(' && ') || 'true'};`,
          '',
        ]),
    ...writer.declarations(),
    '',
    '/** The values of a moment; dials that are left out have their defaults. */',
    `export function frame(${values}, ${seconds}) {`,
    `  const ${given} = { ...defaults, ...${values} };`,
    ...(period === undefined
      ? []
      : [`  if (returns(${given})) ${seconds} -= ${period} * Math.floor(${seconds} / ${period});`]),
    ...body.lines.map((line) => `  ${line}`),
    `  return {`,
    ...shader.uniforms.map((u, k) => `    ${u.name}: ${field(k)},`),
    '  };',
    '}',
    '',
    `/** The values of a frame, counted from 0, ${String(loop.fps)} a second. */`,
    'export function frameAt(values, index) {',
    ...(period === undefined
      ? []
      : [`  if (returns({ ...defaults, ...values })) index = ((index % ${frames}) + ${frames}) % ${frames};`]),
    `  return frame(values, index / ${literal(loop.fps)});`,
    '}',
    '',
  ].join('\n');
}

/** Its types. */
export function jsTypes({ shader }: Pick<HostModel, 'shader'>): string {
  const type = (width: number): string =>
    width === 1 ? 'number' : `[${Array.from({ length: width }, () => 'number').join(', ')}]`;
  return [
    'export interface Dials {',
    ...shader.dials.map(
      (d) =>
        `  /** ${[unitOf(d.dial), d.dial.help].filter(Boolean).join('. ').replaceAll('*/', '* /')} */\n  ${d.name}: ${type(widthOf(d.type))};`,
    ),
    '}',
    'export interface Frame {',
    ...shader.uniforms.map((u) => `  ${u.name}: ${type(widthOf(u.type))};`),
    '}',
    'export interface Dial {',
    '  readonly type: string;',
    '  readonly unit: string;',
    '  readonly default: number | readonly number[];',
    '  readonly hex?: string;',
    '  readonly min?: number;',
    '  readonly max?: number;',
    '  readonly step?: number;',
    '  readonly help?: string;',
    '}',
    'export declare const loop: { readonly seconds: number; readonly fps: number; readonly period: number | null };',
    'export declare const dials: { readonly [K in keyof Dials]: Dial };',
    'export declare const variants: Readonly<Record<string, Dials>>;',
    'export declare function frame(values: Partial<Dials>, seconds: number): Frame;',
    'export declare function frameAt(values: Partial<Dials>, index: number): Frame;',
    '',
  ].join('\n');
}
