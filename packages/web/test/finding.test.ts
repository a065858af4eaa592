import { CompletionContext, type Completion } from '@codemirror/autocomplete';
import { EditorState } from '@codemirror/state';
import { check, flowsIn, OPERATIONS, parse, type Operation } from '@estela/core';
import { describe, expect, it } from '@jest/globals';
import { ENTRIES, searchEntries } from '../src/bench/palette/search.ts';
import { complete } from '../src/bench/score/completion.ts';

/** What is offered at the `|` of a text, asked for or while typing. */
function offered(marked: string, explicit = false): readonly Completion[] | undefined {
  const at = marked.indexOf('¦');
  const text = marked.replace('¦', '');
  const state = EditorState.create({ doc: text });
  return complete(new CompletionContext(state, at, explicit), check(parse(text)))?.options;
}
const labels = (marked: string, explicit?: boolean): string[] => (offered(marked, explicit) ?? []).map((o) => o.label);

/** Declarations of the images and ramps that a call names by its parameters. */
const declared = ({ parameters }: Operation): string =>
  parameters
    .map((p) =>
      p.accepts.includes('image')
        ? `image ${p.name} = "x.png"\n`
        : p.accepts.includes('ramp')
          ? `ramp ${p.name} = 0% #000000, 100% #ffffff\n`
          : '',
    )
    .join('');

describe('completion', () => {
  it.each(OPERATIONS.filter(flowsIn).map((o) => [o.name, o] as const))(
    'offers %s after |>, with its summary, as a call that has no error',
    (name, operation) => {
      const head = `${declared(operation)}a = ${operation.example.includes('uv |>') ? 'uv' : 'uv.x'} |> `;
      const option = offered(`${head}${name.slice(0, 2)}¦`)!.find((o) => o.label === name)!;
      expect([option.detail, option.info]).toEqual([operation.summary, operation.help]);
      const { tree, diagnostics } = check(parse(`${head}${String(option.apply)}\nout color = a\n`));
      expect(tree.statements).toHaveLength(head.split('\n').length + 1);
      // What flows in may be of another type than it takes; what is written is complete.
      expect(
        diagnostics.filter((d) => d.severity === 'error' && !d.message.includes('takes a')).map((d) => d.message),
      ).toEqual([]);
    },
  );

  it('offers what is known where it stands: statements, values from above, arguments and their choices', () => {
    const text = 'dial speed: laps = 1 in -4..4 "how fast"\nswitch wet = on\nimage vapour = "a.png"\nfirst = uv\n';
    expect(labels(`${text}o¦`)).toEqual(expect.arrayContaining(['out', 'op', 'dial']));
    const values = labels(`${text}b = s¦\nlater = uv`);
    expect(values).toEqual(expect.arrayContaining(['speed', 'wet', 'first', 'uv', 'time', 'checker']));
    expect(values).not.toContain('later');
    expect(labels(`${text}b = uv |> pan(h¦`)).toEqual(expect.arrayContaining(['heading:', 'rate:', 'speed']));
    expect(labels(`${text}b = uv |> sample(v¦`)).toContain('vapour');
    expect(labels(`${text}b = wave(1 lap, shape: t¦`)).toEqual(expect.arrayContaining(['triangle', 'sine', 'square']));
    expect(labels(`${text}b = uv |> off c¦`)).toContain('checker');
  });

  it('offers nothing in comments and texts, nor unasked where no word is begun', () => {
    for (const marked of ['a = uv // pa¦', 'image a = "mi¦', 'material "pa¦'])
      expect(offered(marked, true)).toBeUndefined();
    expect(offered('a = ¦')).toBeUndefined();
    expect(labels('a = ¦', true)).toContain('uv');
  });
});

describe('the palette', () => {
  it('finds every operation and output by its name and by its summary, among the first', () => {
    for (const entry of ENTRIES) {
      expect([entry.name, searchEntries(entry.name)[0]?.name]).toEqual([entry.name, entry.name]);
      const place = searchEntries(entry.summary).findIndex((e) => e.id === entry.id);
      expect([entry.summary, place >= 0 && place < 8]).toEqual([entry.summary, true]);
    }
  });

  it.each([
    ['make it glow at the edge', 'fresnel'],
    ['scroll like a waterfall', 'pan'],
    ['clouds', 'fbm'],
    ['fire colours palette', 'ramp'],
    ['final picture', 'out color'],
    ['I want to TILE it', 'tile'],
    ['checkr', 'checker'],
  ])('finds "%s" as %s', (words, name) => {
    expect(searchEntries(words)[0]?.name).toBe(name);
  });

  it('shows all for no words, and nothing for words that say nothing', () => {
    expect([searchEntries('  ').length, searchEntries('qqqq'), searchEntries('make it the')]).toEqual([
      ENTRIES.length,
      [],
      [],
    ]);
  });
});
