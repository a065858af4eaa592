import type { SetBody } from '../api/client.ts';
import type { CameraPose } from './orbit.ts';
import { BACKDROPS, type BackdropName, type Scene } from '../material/lighting.ts';
import { ENVIRONMENTS, type EnvironmentName } from '@estela/core';

/** The view that is kept with a set; undefined where none is. */
export const standpointOf = ({ view }: SetBody): CameraPose | undefined =>
  (view as unknown as CameraPose | null) ?? undefined;

/** How a set is lit; names that are not known here give the usual. */
export const sceneOf = ({ scene }: SetBody): Scene => ({
  environment: Object.hasOwn(ENVIRONMENTS, scene.environment) ? (scene.environment as EnvironmentName) : 'studio',
  backdrop: Object.hasOwn(BACKDROPS, scene.backdrop) ? (scene.backdrop as BackdropName) : 'plain',
  exposure: scene.exposure,
});
