import type { FirstPicture } from '@estela/core';
import type { Material } from './materials.ts';
import type { Project } from './projects.ts';
import type { Source } from './sources.ts';

/** What the page of a material comes with, in its only block of JSON: what its Bench would ask for first. */
export interface PageData {
  readonly material: Material;
  readonly project: Project;
  readonly sources: readonly Source[];
  /** Absent where the text has errors, or is too long to be compiled on the way. */
  readonly picture?: FirstPicture;
}
