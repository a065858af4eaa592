import { useState, type ReactElement } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { api, isMissing } from '../api/client.ts';
import { useOpening } from '../ui/opening.tsx';
import { useTitle } from '../ui/title.ts';
import { CodePart } from './CodePart.tsx';
import { PARTS, type PartName, type PartProps } from './ExportFrame.tsx';
import { GltfPart } from './GltfPart.tsx';
import type { Opened } from './opened.ts';

const VIEWS: Readonly<Record<PartName, (props: PartProps) => ReactElement>> = { code: CodePart, gltf: GltfPart };

/** A material on its way out: as shader code, or as glTF. */
export function ExportPage(): ReactElement {
  const { materialId = '' } = useParams();
  const [address, setAddress] = useSearchParams();
  const [attempt, setAttempt] = useState(0);
  const { opened, page } = useOpening<Opened>('material', `${materialId} ${String(attempt)}`, async () => {
    try {
      const material = await api.material(materialId);
      const { projectId } = material;
      const [project, sources, meshes] = await Promise.all([
        api.project(projectId),
        api.sources(projectId),
        api.meshes(projectId),
      ]);
      return { material, project, sources, meshes };
    } catch (error) {
      if (isMissing(error)) return undefined;
      throw error;
    }
  });
  useTitle(opened ? `${opened.material.title}, export` : '');
  if (!opened) return page;
  const part = Object.keys(PARTS).find((name) => name === address.get('part')) as PartName | undefined;
  const View = VIEWS[part ?? 'code'];
  return (
    <View
      opened={opened}
      attempt={attempt}
      again={() => {
        setAttempt(attempt + 1);
      }}
      choose={(next) => {
        setAddress(next === 'code' ? {} : { part: next }, { replace: true });
      }}
    />
  );
}
