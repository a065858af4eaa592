import { HostWriter } from '../../backends/host/body.ts';
import { C99 } from '../../backends/host/c.ts';
import { scalarOf, widthOf, type IrType } from '../../ir/node.ts';
import { userValue } from '../../backends/dial-units.ts';
import { frameBody, periodTests, unitOf, type HostModel } from './host.ts';
import { std140 } from './layout.ts';

const VALUES = { f: 'float', i: 'int32_t', u: 'uint32_t', b: 'uint32_t' } as const;
const array = (type: IrType): string => (widthOf(type) === 1 ? '' : `[${String(widthOf(type))}]`);
const part = (name: string, width: number, i: number): string => (width === 1 ? name : `${name}[${String(i)}]`);

/** A C99 header without dependencies: dials with their defaults, and the values of a frame in doubles. */
export function cHeader(model: HostModel, name: string): string {
  const { program, shader, values, returns } = model;
  const { loop } = program;
  const writer = new HostWriter(C99, name);
  const [dials, values_, defaults, frame, frameAt, comesRound] = [
    'dials',
    'frame_values',
    'default_dials',
    'frame',
    'frame_at',
    'returns',
  ].map((n) => writer.take(n)) as [string, string, string, string, string, string];
  const names = writer.globals.within();
  const [given, seconds, out] = ['dials', 'seconds', 'frame'].map((n) => names.take(n)) as [string, string, string];
  const body = frameBody(model, writer, names, seconds, (field, width, i) => part(`${given}->${field}`, width, i));
  const literal = (value: number): string => C99.literal('f', value).text;
  const comment = (text: string): string => C99.comment(text);
  const layout = std140(shader.uniforms);
  const guard = `${name.toUpperCase()}_H`;
  const declarations = writer.declarations();
  const tests = periodTests(model, literal, (field, width, i) => part(`dials->${field}`, width, i), '==');
  const period = returns && literal(returns.seconds);
  const frames = String(returns ? returns.loops * loop.frames : 0);
  return [
    comment(`${program.title || 'Untitled'}: the values of a frame, computed in doubles.`),
    `#ifndef ${guard}`,
    `#define ${guard}`,
    '',
    '#include <math.h>',
    '#include <stdint.h>',
    ...(declarations.some((d) => d.includes('memcpy')) ? ['#include <string.h>'] : []),
    '',
    'typedef struct {',
    ...(shader.dials.length === 0 ? ['  double unused;'] : []),
    ...shader.dials.map(
      (d) => `  double ${d.name}${array(d.type)}; ${comment([unitOf(d.dial), d.dial.help].filter(Boolean).join('. '))}`,
    ),
    `} ${dials};`,
    '',
    comment('Laid out as a std140 uniform block: it can be copied into a uniform buffer.'),
    'typedef struct {',
    ...(layout.fields.length === 0 ? ['  float unused;'] : []),
    ...layout.fields.flatMap((f, i) => [
      ...(f.padding > 0 ? [`  float padding_${String(i)}[${String(f.padding / 4)}];`] : []),
      `  ${VALUES[scalarOf(f.type)]} ${f.name}${array(f.type)};`,
    ]),
    `} ${values_};`,
    '',
    ...declarations,
    '',
    `static inline ${dials} ${defaults}(void) {`,
    `  ${dials} dials;`,
    ...(shader.dials.length === 0 ? ['  dials.unused = 0.0;'] : []),
    ...shader.dials.flatMap((d) =>
      userValue(d.dial, values.dials.get(d.dial.name) ?? d.dial.value, program.loop).map(
        (v, i) => `  dials.${part(d.name, widthOf(d.type), i)} = ${literal(v)};`,
      ),
    ),
    '  return dials;',
    '}',
    '',
    ...(period === undefined
      ? []
      : [
          comment('Whether everything repeats after the period, which depends on the dials.'),
          `static inline int ${comesRound}(const ${dials} *dials) {`,
          '  (void)dials;',
          `  return ${tests.join(' && ') || '1'};`,
          '}',
          '',
        ]),
    `static inline void ${frame}(const ${dials} *${given}, double ${seconds}, ${values_} *${out}) {`,
    ...(period === undefined
      ? []
      : [`  if (${comesRound}(${given})) ${seconds} -= ${period} * floor(${seconds} / ${period});`]),
    ...body.lines.map((line) => `  ${line}`),
    `  (void)${given};`,
    `  (void)${seconds};`,
    ...(shader.uniforms.length === 0 ? [`  ${out}->unused = 0.0f;`] : []),
    ...shader.uniforms.flatMap((u, k) =>
      body.fields[k]!.map(
        (t, i) => `  ${out}->${part(u.name, widthOf(u.type), i)} = (${VALUES[scalarOf(u.type)]})(${t.text});`,
      ),
    ),
    '}',
    '',
    comment(`Frames are counted from 0, ${String(loop.fps)} a second.`),
    `static inline void ${frameAt}(const ${dials} *dials, int index, ${values_} *values) {`,
    ...(period === undefined
      ? []
      : [`  if (${comesRound}(dials)) index = (index % ${frames} + ${frames}) % ${frames};`]),
    `  ${frame}(dials, (double)index / ${literal(loop.fps)}, values);`,
    '}',
    '',
    '#endif',
    '',
  ].join('\n');
}
