import { describe, expect, it } from '@jest/globals';
import {
  addVariant,
  applyEdits,
  CHANNELS,
  groupsOf,
  insertOperation,
  stagePlace,
  insertOutput,
  literalAt,
  literalWith,
  makeConstant,
  makeDial,
  moveExposed,
  nudge,
  OPERATIONS,
  pathTo,
  removeStage,
  removeVariant,
  renameName,
  setGroup,
  setHelp,
  setOffBelow,
  setRange,
  setStageOff,
  setVariantValue,
  stagesOf,
  swapStages,
  type Program,
  type TextEdit,
} from '../src/index.ts';
import { lower } from '../src/lower/lower.ts';
import { checked, demoMaterials } from './support.ts';

const errorsOf = (text: string): string[] =>
  checked(text)
    .diagnostics.filter((d) => d.severity === 'error')
    .map((d) => d.message);
const after = (program: Program, edits: readonly TextEdit[]): string => applyEdits(program.tree.text, edits);
const literalsOf = (program: Program): number[] => [
  ...new Set(
    program.tree.tokens
      .filter((t) => t.kind === 'number' || t.kind === 'color')
      .flatMap((t) => (literalAt(program, t.from) ? [t.from] : [])),
  ),
];

describe.each(demoMaterials)('in $name', ({ text }) => {
  const program = checked(text);

  it('every number can be moved and moved back', () => {
    for (const at of literalsOf(program)) {
      const literal = literalAt(program, at)!;
      expect([literal.from <= at, literal.to >= at]).toEqual([true, true]);
      const moved = after(program, nudge(literal, 1));
      if (literal.kind !== 'number' && literal.kind !== 'angle') continue;
      const again = literalAt(checked(moved), literal.from)!;
      const isOne = Math.abs(again.value[0]!) === 1;
      expect(again.suffix).toBe(literal.suffix.replace(/laps?$/, isOne ? 'lap' : 'laps'));
      const [from = 0, to = 0] = [literal.value[0], again.value[0]];
      // Strict ranges may hold it where it was.
      if (moved !== text) expect(to - from).toBeCloseTo(literal.step, 6);
      expect(literalWith(again, literal.value, 0.001).replace(/\.0+(?=\D|$)/, '')).toBe(
        literalWith(literal, literal.value, 0.001).replace(/\.0+(?=\D|$)/, ''),
      );
    }
  });

  it('every value that a dial can hold becomes one, and a constant again, with the same meaning', () => {
    const graph = lower(program);
    let made = 0;
    for (const at of literalsOf(program)) {
      const literal = literalAt(program, at)!;
      const result = makeDial(program, literal);
      if ('complaint' in result) continue;
      made++;
      const dialled = checked(after(program, result.edits));
      expect(errorsOf(dialled.tree.text)).toEqual([]);
      const uses = [...dialled.tree.text.matchAll(new RegExp(`\\b${result.name}\\b`, 'g'))].map((m) => m.index);
      const name = uses
        .map((u) => pathTo(dialled.tree, u + 1).at(-1))
        .find((e) => e?.kind === 'name' && e.name === result.name);
      if (name?.kind !== 'name') throw new Error(`no use of ${result.name}`);
      const back = checked(after(dialled, makeConstant(dialled, name)));
      expect(back.dials.map((d) => d.name)).toEqual(program.dials.map((d) => d.name));
      // Graphs of one builder share what is the same.
      const again = lower(back, graph.switches, graph.builder);
      expect(again.steps.map((node, i) => node === graph.steps[i])).toEqual(program.steps.map(() => true));
    }
    expect(made).toBeGreaterThan(2);
  });

  it('stages are switched off and on, and change places and back', () => {
    for (const s of program.tree.statements) {
      if (s.kind !== 'step') continue;
      const { stages } = stagesOf(s.value);
      stages.forEach((stage, i) => {
        const off = checked(after(program, setStageOff(text, stage, stage.off === undefined)));
        const again = off.tree.statements.find((o) => o.from === s.from);
        if (again?.kind !== 'step') throw new Error('the step is gone');
        expect(
          applyEdits(
            off.tree.text,
            setStageOff(off.tree.text, stagesOf(again.value).stages[i]!, stage.off !== undefined),
          ),
        ).toBe(text);
        const next = stages[i + 1];
        if (next) {
          const swapped = checked(after(program, swapStages(text, stage, next)));
          const moved = swapped.tree.statements.find((o) => o.from === s.from);
          if (moved?.kind !== 'step') throw new Error('the step is gone');
          const there = stagesOf(moved.value).stages;
          expect(applyEdits(swapped.tree.text, swapStages(swapped.tree.text, there[i]!, there[i + 1]!))).toBe(text);
        }
        const without = checked(after(program, removeStage(text, stage))).tree.statements.find(
          (o) => o.from === s.from,
        );
        expect(without?.kind === 'step' && stagesOf(without.value).stages.length).toBe(stages.length - 1);
      });
    }
  });

  it('names are changed everywhere, and back', () => {
    for (const { name } of [
      ...program.dials,
      ...program.switches,
      ...program.images,
      ...program.ramps,
      ...program.steps.filter((s) => s.kind === 'step'),
    ]) {
      const renamed = checked(after(program, renameName(program.tree, name, 'zz_name')));
      expect(errorsOf(renamed.tree.text)).toEqual([]);
      expect(after(renamed, renameName(renamed.tree, 'zz_name', name))).toBe(text);
    }
  });
});

describe('the palette', () => {
  it.each(OPERATIONS.map((operation) => ({ name: operation.name, operation })))(
    'writes $name into an empty text and into a full one without an error',
    ({ operation }) => {
      for (const text of ['', 'material "Full"\nnoise = uv |> fbm(cells: 4)\nout color = noise\n']) {
        const program = checked(text);
        for (const index of [-1, 0, program.steps.length - 1])
          for (const as of ['stage', 'line'] as const) {
            const { edits, step } = insertOperation(program, operation, {
              index,
              as,
              texture: { source: 'mist-a.png', encoding: 'color' },
            });
            const made = checked(after(program, edits));
            expect(
              made.diagnostics.filter(
                (d) => d.severity === 'error' && d.code !== 'no-output' && operation.name !== 'atan',
              ),
            ).toEqual([]);
            expect(made.steps[step]?.kind).toBe('step');
            const stage = as === 'stage' && stagePlace(program, operation, index);
            expect(made.steps.length).toBe(program.steps.length + (stage ? 0 : 1));
          }
      }
    },
  );

  it.each(CHANNELS)('puts out %s, also over the one there is', (channel) => {
    for (const text of [
      '',
      'noise = uv |> fbm(cells: 4)\n',
      `noise = uv |> fbm(cells: 4)\nout ${channel} = ${channel === 'normal' ? '(0, 0, 1)' : '0.1'} // kept\n`,
    ]) {
      const program = checked(text);
      const made = checked(after(program, insertOutput(program, channel, 0).edits));
      expect(made.diagnostics.filter((d) => d.severity === 'error')).toEqual([]);
      expect(made.steps.filter((s) => s.kind === 'out').map((s) => s.name)).toEqual([channel]);
    }
  });
});

describe('dials and variants', () => {
  const TEXT = [
    '// Motion',
    'dial fall: laps = 2 in -6..6 "Sheets" // note',
    'dial sway = 0.1 in 0..1',
    '',
    'switch glints = on',
    'color = uv |> pan(fall) |> fbm(cells: 4)',
    'out color = color * sway * glints',
    'variant "Calm" { fall = 1, sway = 0.2 }',
    'variant "Gale" {',
    '  fall = 5',
    '}',
    '',
  ].join('\n');
  const program = checked(TEXT);
  const { tree } = program;
  const line = (text: string, start: string): string => text.split('\n').find((l) => l.includes(start)) ?? '';

  it('change one thing and nothing else', () => {
    expect(line(after(program, setRange(tree, 'fall', ['-2', '8'])), 'dial fall')).toBe(
      'dial fall: laps = 2 in -2..8 "Sheets" // note',
    );
    expect(line(after(program, setRange(tree, 'sway', undefined)), 'dial sway')).toBe('dial sway = 0.1');
    expect(line(after(program, setHelp(tree, 'sway', 'Push "it"')), 'dial sway')).toBe(
      'dial sway = 0.1 in 0..1 "Push  it"',
    );
    expect(line(after(program, setVariantValue(tree, 'Calm', 'sway', '0.3')), 'Calm')).toBe(
      'variant "Calm" { fall = 1, sway = 0.3 }',
    );
    expect(line(after(program, setVariantValue(tree, 'Calm', 'fall', undefined)), 'Calm')).toBe(
      'variant "Calm" { sway = 0.2 }',
    );
    expect(line(after(program, setVariantValue(tree, 'Calm', 'glints', 'off')), 'Calm')).toBe(
      'variant "Calm" { fall = 1, sway = 0.2, glints = off }',
    );
    expect(after(program, setVariantValue(tree, 'Gale', 'sway', '0.5'))).toContain('{\n  fall = 5\n  sway = 0.5\n}');
    expect(after(program, addVariant(tree, 'New', [['fall', '3']]))).toContain('}\nvariant "New" { fall = 3 }\n');
    expect(errorsOf(after(program, removeVariant(tree, 'Calm')))).toEqual([]);
    expect(after(program, moveExposed(tree, 'sway', -1))).toContain('dial sway = 0.1 in 0..1\ndial fall: laps');
    expect(after(program, moveExposed(tree, 'fall', -1))).toBe(TEXT);
  });

  it('stand in groups by the comment above them', () => {
    expect([...groupsOf(tree)]).toEqual([
      ['fall', 'Motion'],
      ['sway', 'Motion'],
      ['glints', ''],
    ]);
    for (const [name, group] of [
      ['glints', 'Motion'],
      ['sway', ''],
      ['fall', ''],
      ['sway', 'Shape'],
      ['glints', 'Shape'],
    ] as const) {
      const moved = checked(after(program, setGroup(tree, name, group)));
      expect(groupsOf(moved.tree).get(name)).toBe(group);
      for (const other of ['fall', 'sway', 'glints'].filter((n) => n !== name))
        expect([other, groupsOf(moved.tree).get(other)]).toEqual([other, groupsOf(tree).get(other)]);
      expect(errorsOf(moved.tree.text)).toEqual([]);
    }
  });

  it('are muted from a line on, outputs left on', () => {
    const text = 'a = uv |> fbm(cells: 2)\nb = a * 2\noff c = b\nout color = b\n';
    const p = checked(text);
    const muted = applyEdits(text, setOffBelow(p.tree, p.steps[1]!.span.from, true));
    expect(muted).toBe('a = uv |> fbm(cells: 2)\noff b = a * 2\noff c = b\nout color = b\n');
  });
});
