import type { EnvironmentName } from '@estela/core';

/** What stands behind and under a surface. */
export const BACKDROPS = { plain: 'Plain', grid: 'Grid', room: 'Room' } as const;
export type BackdropName = keyof typeof BACKDROPS;

/** How the mesh view is lit and shown. */
export interface Scene {
  readonly environment: EnvironmentName;
  readonly backdrop: BackdropName;
  /** In stops; 0 leaves light as it is. */
  readonly exposure: number;
}
