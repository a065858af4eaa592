/// <reference lib="webworker" />
import { refitted, type Fitting, type Refit } from '@estela/core';
import { expose } from 'comlink';

/** Lays meshes anew. What keeps the form keeps its very arrays at the asker, who sends back nothing that they hold by: so UVs alone are told there. */
const work = {
  refit(fitting: Fitting, how: Refit) {
    const done = refitted(fitting, how);
    if ('problem' in done || done.mesh.positions !== fitting.mesh.positions) return done;
    const { mesh, islands, chosen } = done;
    return { uvs: mesh.uvs, islands, chosen };
  },
};
export type FitWork = typeof work;

expose(work);
