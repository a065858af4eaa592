import { memory, recall, remember } from '../ui/memory.ts';
import { holdKey, openKeys, ownKey } from './open-keys.ts';

/**
 * Text that is typed but not saved yet, kept in the browser so that closing the page loses nothing. Each opening of a
 * material keeps one of its own: two tabs never write, or remove, each other's.
 */
export interface Draft {
  readonly key: string;
  readonly material: string;
  /** Of the material; empty where it is not known. */
  readonly project: string;
  readonly title: string;
  /** The revision that the typing began from. */
  readonly revision: number;
  readonly text: string;
  /** When it was typed, in milliseconds since 1970. */
  readonly at: number;
}

/** The draft of one opening of a material. */
export interface DraftKeeper {
  /** Keeps a text; says whether the browser could. */
  readonly keep: (draft: Pick<Draft, 'title' | 'revision' | 'text'>) => boolean;
  /** Removes it: the text is saved. */
  readonly forget: () => void;
  /** The page lets go of it: what is there still is for the next opening to find. */
  readonly close: () => void;
}

const PREFIX = 'estela.draft.';

function read(key: string): Draft | undefined {
  const {
    text,
    revision,
    project = '',
    title = '',
    at = 0,
  }: Partial<Record<keyof Draft, unknown>> = recall<Draft>(key);
  const [material = ''] = key.slice(PREFIX.length).split('.');
  if (typeof text !== 'string' || typeof revision !== 'number' || material === '') return undefined;
  return { key, material, project: String(project), title: String(title), revision, text, at: Number(at) || 0 };
}

/** When a draft was typed, in words. */
export const typedAt = ({ at }: Draft): string =>
  at === 0 ? 'earlier' : new Date(at).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });

/** Drafts that no open page is typing at, the newest first: of one material, or of all. */
export async function findDrafts(material?: string): Promise<Draft[]> {
  const open = await openKeys();
  return memory
    .keys()
    .filter((key) => key.startsWith(PREFIX) && !open.has(key))
    .map(read)
    .filter((d): d is Draft => d !== undefined && (material === undefined || d.material === material))
    .sort((a, b) => b.at - a.at);
}

/** Whether there is a draft of a material, of this page or another. */
export const hasDraft = (material: string): boolean =>
  memory.keys().some((key) => key.startsWith(`${PREFIX}${material}.`));

/** Removes a draft whose text is saved, or not wanted; not if it has become another since it was found. */
export function dropDraft(draft: Draft): void {
  const now = read(draft.key);
  if (now?.text === draft.text && now.revision === draft.revision) memory.removeItem(draft.key);
}

export function keepDrafts(material: string, project: string): DraftKeeper {
  const key = ownKey(`${PREFIX}${material}.`);
  const close = holdKey(key);
  return {
    keep: (draft) => remember(key, { ...draft, project, at: Date.now() }),
    forget() {
      memory.removeItem(key);
    },
    close,
  };
}
