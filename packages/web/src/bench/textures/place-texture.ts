import { insertTexture, replaceTexture, samples, type Texture } from '@estela/core';
import type { Source } from '../../api/client.ts';
import { stepRefOf } from '../../material/step-ref.ts';
import { refOf } from '../../project/supply.ts';
import { pixels } from '../../workers/pixels.ts';
import { selectedIn } from '../selection.ts';
import type { Session } from '../session.ts';

/** Recipes whose pictures are values, whatever they look like. */
const VALUES: ReadonlySet<string | undefined> = new Set(['path', 'flow', 'pack', 'channel']);

/** A source with what its values are, told from its pixels; rejects where it cannot be decoded. */
export async function textureOf(source: Source): Promise<Texture> {
  if (VALUES.has(source.recipe?.kind)) return { source: source.name, encoding: 'data' };
  return { source: source.name, encoding: await pixels('sources').encoding(refOf(source), source.name) };
}

/**
 * Puts a source into the material: in place of the image of a step it was dropped on that samples one, else as a new
 * step below that or below the selected one. Edits of one `group` are one undo.
 */
export async function placeTexture(
  { document, selection }: Pick<Session, 'document' | 'selection'>,
  source: Source,
  { onto, group }: { readonly onto?: number | undefined; readonly group?: string } = {},
): Promise<void> {
  const texture = await textureOf(source);
  const { program } = document.getState().derived;
  const replaced = onto !== undefined && samples(program, onto) ? replaceTexture(program, texture, onto) : undefined;
  if (replaced && onto !== undefined) {
    document.edit(replaced, group);
    selection.setState({ step: stepRefOf(document.getState().derived.program, onto) });
    return;
  }
  const { edits, step } = insertTexture(program, texture, onto ?? selectedIn(program, selection.getState()) ?? -1);
  document.edit(edits, group);
  selection.setState({ step: stepRefOf(document.getState().derived.program, step) });
}

/** Imports files and puts them to use. */
export function takeIn({ intake }: Pick<Session, 'intake'>, files: readonly File[], step?: number): void {
  if (files.length > 0) intake.setState(({ batch }) => ({ batch: { id: (batch?.id ?? 0) + 1, files, step } }));
}

/** What can be imported, for a file dialog. */
const ACCEPTED = '.obj,.gltf,.glb,.bin,.png,.jpg,.jpeg,.webp,.tga,.gif,image/png,image/jpeg,image/webp,image/gif';

/** Asks for files, imports them and puts them to use. */
export function pickFiles(session: Pick<Session, 'intake'>): void {
  const input = document.createElement('input');
  input.type = 'file';
  input.multiple = true;
  input.accept = ACCEPTED;
  input.hidden = true;
  document.body.append(input);
  input.addEventListener('change', () => {
    takeIn(session, [...(input.files ?? [])]);
    input.remove();
  });
  input.addEventListener('cancel', () => {
    input.remove();
  });
  input.click();
}

/** What a source is dragged as, by its id. */
export const DRAGGED_SOURCE = 'application/x-estela-source';
