import { FAMILIES, OPERATIONS, type Channel, type Operation } from '@estela/core';
import MiniSearch from 'minisearch';
import type { Source } from '../../api/client.ts';

/** What the palette can insert: an operation, an output, or a texture of the project. */
export type Entry =
  | {
      readonly id: string;
      readonly kind: 'operation';
      readonly operation: Operation;
      readonly name: string;
      readonly summary: string;
      readonly group: string;
    }
  | {
      readonly id: string;
      readonly kind: 'source';
      readonly source: Source;
      readonly name: string;
      readonly summary: string;
      readonly group: string;
    }
  | {
      readonly id: string;
      readonly kind: 'output';
      readonly channel: Channel;
      readonly name: string;
      readonly summary: string;
      readonly group: string;
    };

const OUTPUTS: Record<Channel, readonly [summary: string, uses: string]> = {
  color: ['What the surface looks like', 'final picture, base colour, show'],
  normal: ['Surface detail for lighting', 'bumps'],
  metallic: ['How metallic it is', 'metal'],
  roughness: ['How rough or shiny it is', 'gloss, shine'],
  emissive: ['Emitted light', 'glow, bloom, light'],
  opacity: ['How opaque it is', 'transparent, see-through, alpha, fade'],
  cutoff: ['Opacity below which pixels are discarded', 'mask, alpha test'],
  refraction: ['How it bends what is behind', 'glass, water, heat haze'],
};

/** Words that say nothing of what is looked for. */
const FILLERS = new Set([
  'a',
  'an',
  'and',
  'at',
  'by',
  'for',
  'from',
  'i',
  'in',
  'is',
  'it',
  'its',
  'make',
  'my',
  'of',
  'on',
  'or',
  'some',
  'that',
  'the',
  'to',
  'want',
  'with',
]);

type OfEvery = Exclude<Entry, { kind: 'source' }>;

export const ENTRIES: readonly OfEvery[] = [
  ...OPERATIONS.map((operation): OfEvery => ({
    id: operation.name,
    kind: 'operation',
    operation,
    name: operation.name,
    summary: operation.summary,
    group: FAMILIES[operation.family],
  })),
  ...(Object.keys(OUTPUTS) as Channel[]).map((channel): OfEvery => ({
    id: `out ${channel}`,
    kind: 'output',
    channel,
    name: `out ${channel}`,
    summary: OUTPUTS[channel][0],
    group: 'Outputs',
  })),
];

const byId = new Map(ENTRIES.map((e) => [e.id, e]));

const index = new MiniSearch({
  fields: ['name', 'summary', 'uses', 'group', 'help'],
  processTerm: (term) => (FILLERS.has(term.toLowerCase()) ? null : term.toLowerCase()),
  searchOptions: {
    boost: { name: 4, uses: 3, summary: 2 },
    prefix: (term) => term.length > 1,
    fuzzy: (term) => (term.length > 4 ? 0.2 : false),
  },
});
index.addAll(
  ENTRIES.map((e) => ({
    id: e.id,
    name: e.name,
    summary: e.summary,
    group: e.group,
    uses: e.kind === 'operation' ? (e.operation.uses ?? '') : OUTPUTS[e.channel][1],
    help: e.kind === 'operation' ? e.operation.help : '',
  })),
);

const sourceEntry = (source: Source): Entry => ({
  id: `source ${source.id}`,
  kind: 'source',
  source,
  name: source.name,
  summary: `Samples it, ${String(source.width)} x ${String(source.height)}`,
  group: 'Textures of this project',
});

/**
 * Entries that fit a search, the best first; all, by purpose, where nothing is searched for. Textures of the project
 * fit by their names.
 */
export function searchEntries(words: string, sources: readonly Source[] = []): readonly Entry[] {
  const wanted = words.trim().toLowerCase();
  if (wanted === '') return [...ENTRIES, ...sources.map(sourceEntry)];
  const named = sources.filter((s) => wanted.length > 1 && s.name.toLowerCase().includes(wanted)).map(sourceEntry);
  return [...index.search(words).flatMap((hit) => byId.get(hit.id as string) ?? []), ...named];
}
