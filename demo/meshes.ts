import { repaceUvs, shapeMesh, speedThrough, type MeshData } from '@estela/core';

/**
 * A tube whose sap hurries through its middle: rows spread there, so that the same scroll runs three times as fast as
 * at the ends.
 */
function sapTube(): MeshData {
  const tube = shapeMesh('tube', 48);
  const done = repaceUvs(
    tube,
    new Uint8Array(tube.positions.length / 3).fill(1),
    'u',
    speedThrough([0.6, 1, 1.8, 1, 0.6]),
  );
  if ('problem' in done) throw new Error(done.problem);
  return done.mesh;
}

/** Meshes of the demo, by name. */
export const meshes: Readonly<Record<string, () => MeshData>> = { 'sap tube': sapTube };
