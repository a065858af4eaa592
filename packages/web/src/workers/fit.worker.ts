/// <reference lib="webworker" />
import { faceGraphOf, refit, type Fitting, type MeshData, type Refit } from '@estela/core';
import { expose } from 'comlink';

/**
 * Lays meshes anew. Where the form stays, only the UVs are sent back: the asker goes on with the arrays that it has,
 * and with all that is known by them.
 */
const work = {
  refit(fitting: Fitting, how: Refit) {
    const done = refit(fitting, how);
    if ('problem' in done || done.mesh.positions !== fitting.mesh.positions) return done;
    const { mesh, islands, selected } = done;
    return { uvs: mesh.uvs, islands, selected };
  },
  faces: (mesh: MeshData) => faceGraphOf(mesh),
};
export type FitWork = typeof work;

expose(work);
