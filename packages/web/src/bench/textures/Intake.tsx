import { useRef, useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { sentence } from '../../api/client.ts';
import { DropTray } from '../../project/DropTray.tsx';
import type { ImportItem } from '../../project/import-store.ts';
import { StageNote } from '../../viewport/Legend.tsx';
import { useStageAddress } from '../../viewport/lens.ts';
import { useSession } from '../session.ts';
import { placeTexture } from './place-texture.ts';

/**
 * Imports what was dropped on the Bench or pasted, and puts it to use: pictures into the material, one after the other
 * and as one undo, and a mesh onto the Stage.
 */
export function Intake(): ReactElement | null {
  const session = useSession();
  const { intake, sources } = session;
  const batch = useStore(intake, (s) => s.batch);
  const address = useStageAddress();
  const [problem, setProblem] = useState('');
  /** Pictures wait for one another, so that each is put below the last. */
  const last = useRef<Promise<unknown>>(Promise.resolve());
  if (!batch) return null;
  const use = async ({ name }: ImportItem, onto: number | undefined, group: string): Promise<void> => {
    const source = sources.getState().sources.find((s) => s.name === name);
    if (!source) return;
    setProblem('');
    try {
      await placeTexture(session, source, { onto, group });
    } catch (error) {
      setProblem(`${name} was imported but not used in the material. ${sentence(error)}`);
    }
  };
  const take = (item: ImportItem): void => {
    if (item.mesh?.id !== undefined) {
      address.show({ view: `mesh-${item.mesh.id}` });
      return;
    }
    // Only the first of several takes the place of an image; the others go below it.
    const onto = item.file === batch.files[0] ? batch.step : undefined;
    const group = `intake ${String(batch.id)}`;
    last.current = last.current.then(() => use(item, onto, group));
  };
  return (
    <>
      {problem !== '' && (
        <StageNote role="alert" wrong>
          {problem}
        </StageNote>
      )}
      <DropTray files={batch.files} sources={sources} take={take} />
    </>
  );
}
