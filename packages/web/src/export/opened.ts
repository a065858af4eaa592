import { check, parse } from '@estela/core';
import type { Material, Project, Source, StoredMesh } from '../api/client.ts';

/** What is opened to be exported. */
export interface Opened {
  readonly material: Material;
  readonly project: Project;
  readonly sources: readonly Source[];
  readonly meshes: readonly StoredMesh[];
}

/** Names of a material's variants. */
export const variantsOf = (text: string): string[] => check(parse(text)).variants.map((v) => v.name);
