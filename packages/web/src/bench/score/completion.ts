import {
  autocompletion,
  type Completion,
  type CompletionContext,
  type CompletionResult,
} from '@codemirror/autocomplete';
import type { Extension } from '@codemirror/state';
import {
  flowsIn,
  OPERATIONS,
  operationNamed,
  sampleCall,
  type Operation,
  type OperationParameter,
  type Program,
} from '@estela/core';
import type { Source } from '../../api/client.ts';
import { sourceCanvas } from '../../project/source-picture.ts';
import type { SourcesStore } from '../../project/sources-store.ts';
import type { DocumentStore } from '../document-store.ts';
import { textureOf } from '../textures/place-texture.ts';

const STATEMENTS: readonly Completion[] = [
  ['dial', 'an exposed parameter', 'dial '],
  ['switch', 'an exposed on/off switch', 'switch '],
  ['image', 'a texture of the project', 'image '],
  ['ramp', 'a colour gradient', 'ramp '],
  ['out', 'an output of the material', 'out color = '],
  ['op', 'your operation', 'op '],
  ['variant', 'a set of dial values', 'variant "" { }'],
  ['loop', 'length and frame rate', 'loop 4s at 30fps'],
  ['surface', 'lit, blend, two-sided ...', 'surface '],
].map(([label = '', detail = '', apply = '']) => ({ label, detail, apply, type: 'keyword' }));

const BUILT_INS: readonly [string, string][] = [
  ['uv', 'coordinate on the UV square'],
  ['uv2', 'second UV set'],
  ['screen', 'screen position, 0..1'],
  ['position', 'position on the mesh, metres'],
  ['world', 'world position, metres'],
  ['vertex_color', 'vertex colour of the mesh'],
  ['time', 'seconds since the start'],
  ['phase', 'position in the loop, 0..1'],
  ['frame', 'frames since the start'],
  ['loop_seconds', "the loop's length"],
];

/** An argument that has no default, as it is written first. */
function sample({ accepts: [accepts], name, range, sample }: OperationParameter): string {
  if (sample !== undefined) return sample;
  if (accepts === 'rate') return '1 lap';
  if (accepts === 'angle') return '90deg';
  if (accepts === 'image' || accepts === 'ramp') return name;
  return String(range ? Math.max(1, range[0]) : 1);
}

const operationOption = (operation: Operation, flowing: boolean): Completion => ({
  label: operation.name,
  detail: operation.summary,
  info: operation.help,
  apply: sampleCall(operation, flowing, sample),
  type: 'function',
});

/** Name of the call whose brackets hold the end of `before`, if any. */
function callAround(before: string): string | undefined {
  let depth = 0;
  for (let i = before.length - 1; i >= 0; i--) {
    if (before[i] === ')') depth++;
    else if (before[i] === '(' && depth-- === 0) return /([A-Za-z_]\w*)$/.exec(before.slice(0, i))?.[1];
  }
  return undefined;
}

function values(program: Program, at: number): Completion[] {
  const steps = program.steps
    .filter((s) => s.kind === 'step' && s.span.to < at)
    .map((s): Completion => ({ label: s.name, detail: s.type, type: 'variable' }));
  const dials = program.dials.map((d): Completion => ({
    label: d.name,
    detail: d.help || `${d.type} dial`,
    type: 'variable',
  }));
  const switches = program.switches.map((s): Completion => ({
    label: s.name,
    detail: s.help || 'switch',
    type: 'variable',
  }));
  const unique = new Map(
    [
      ...BUILT_INS.map(([label, detail]): Completion => ({ label, detail, type: 'constant' })),
      ...dials,
      ...switches,
      ...steps,
    ].map((c) => [c.label, c]),
  );
  return [...unique.values()];
}

/** A source of the project, with its picture. */
interface SourceCompletion extends Completion {
  readonly source?: Source;
}

/** The project's sources, in the string of an `image` line; picking one writes the words it is read by behind it. */
function sourcesAt(context: CompletionContext, sources: readonly Source[], before: string): CompletionResult | null {
  const typed = /^\s*image\s+\w+\s*=\s*"([^"]*)$/.exec(before)?.[1];
  if (typed === undefined || sources.length === 0) return null;
  return {
    from: context.pos - typed.length,
    filter: true,
    options: sources.map((source): SourceCompletion => ({
      label: source.name,
      detail: `${String(source.width)} x ${String(source.height)}`,
      type: 'text',
      source,
      apply: (view, _, from, to) => {
        const line = view.state.doc.lineAt(to);
        // To the closing quote, or what was typed up to here where there is none yet.
        const rest = /^[^"]*"/.exec(line.text.slice(to - line.from))?.[0].length;
        const insert = `${source.name.replace(/"/g, "'")}"`;
        view.dispatch({
          changes: { from, to: to + (rest ?? 0), insert },
          selection: { anchor: from + insert.length },
          userEvent: 'input.complete',
        });
        void textureOf(source).then(
          ({ encoding }) => {
            const now = view.state.doc.lineAt(Math.min(from, view.state.doc.length));
            // Only where no words are there yet.
            if (now.text.endsWith(insert))
              view.dispatch({
                changes: { from: now.to, insert: ` repeat linear ${encoding}` },
                selection: { anchor: now.to + ` repeat linear ${encoding}`.length },
                userEvent: 'input.complete',
              });
          },
          () => undefined,
        );
      },
    })),
  };
}

/**
 * What fits at the cursor: operations after `|>`, words at the start of a line, else values, calls and the arguments of
 * the call around.
 */
export function complete(
  context: CompletionContext,
  program: Program,
  sources: readonly Source[] = [],
): CompletionResult | null {
  const word = context.matchBefore(/[A-Za-z_]\w*/);
  const from = word?.from ?? context.pos;
  const before = context.state.doc.sliceString(Math.max(0, from - 2000), from);
  const line = context.state.doc.lineAt(from);
  const lineBefore = context.state.doc.sliceString(line.from, from);
  const pictures = sourcesAt(context, sources, context.state.doc.sliceString(line.from, context.pos));
  if (pictures) return pictures;
  if (/\/\/|^[^"]*"[^"]*$/.test(lineBefore)) return null;
  if (/\|>\s*(off\s+)?$/.test(before))
    return { from, options: OPERATIONS.filter(flowsIn).map((o) => operationOption(o, true)) };
  if (!word && !context.explicit) return null;
  if (/^\s*$/.test(lineBefore)) return { from, options: [...STATEMENTS] };
  if (!lineBefore.includes('=') && !before.trimEnd().endsWith('(') && !before.trimEnd().endsWith(',')) return null;
  const options = [...values(program, line.from), ...OPERATIONS.map((o) => operationOption(o, false))];
  const around = operationNamed(callAround(before) ?? '');
  if (around) {
    for (const p of around.parameters.slice(1)) {
      if (p.accepts.includes('image'))
        options.push(
          ...program.images.map((i): Completion => ({
            label: i.name,
            detail: `image "${i.source}"`,
            type: 'variable',
            boost: 3,
          })),
        );
      if (p.accepts.includes('ramp'))
        options.push(
          ...program.ramps.map((r): Completion => ({ label: r.name, detail: 'ramp', type: 'variable', boost: 3 })),
        );
      options.push({ label: `${p.name}:`, detail: p.help, apply: `${p.name}: `, type: 'property', boost: 2 });
      for (const option of p.options ?? [])
        options.push({ label: option, detail: `${p.name} of ${around.name}`, type: 'keyword', boost: 1 });
    }
  }
  return { from, options };
}

/** Completion from the operation table and the names of the text. */
export function completion(document: DocumentStore, sources: SourcesStore): Extension {
  return autocompletion({
    icons: false,
    override: [(context) => complete(context, document.getState().derived.program, sources.getState().sources)],
    addToOptions: [
      {
        position: 20,
        render: ({ source }: SourceCompletion) => {
          if (!source) return null;
          const canvas = sourceCanvas(source, 40);
          canvas.className = 'cm-completion-picture';
          return canvas;
        },
      },
    ],
  });
}
