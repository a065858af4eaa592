import { describe, expect, it } from '@jest/globals';
import {
  allOf,
  faceGraphOf,
  islandsIn,
  normaliseUvs,
  refit,
  shapeMesh,
  translateUvs,
  type MeshData,
} from '@estela/core';
import type { Material, SetBody, StoredMesh } from '../src/api/client.ts';
import { arrowsOn, boxAbout, painted, rampOf } from '../src/viewport/paint.ts';
import { FramePace } from '../src/viewport/pace.ts';
import { modelsOf } from '../src/viewport/stage-items.ts';
import { createFit, mapping } from '../src/fit/fit-store.ts';
import { measuredPace, pointsOf, unitOf } from '../src/fit/pace-curve.ts';
import { fitted, toPixel, toUv, triangleAt, trianglesWithin, zoomed } from '../src/fit/uv-frame.ts';
import { extentOf } from '../src/project/mesh-data.ts';
import { doubled, nameOfItem, newItem, withItem, withoutItem } from '../src/project/set-edits.ts';

describe('Fit', () => {
  const start = (mesh: MeshData) =>
    createFit(
      mesh,
      { write: () => Promise.resolve(), recognise: () => Promise.resolve(undefined) },
      {
        refit: (fitting, how) => Promise.resolve(refit(fitting, how)),
        faces: (of) => Promise.resolve(faceGraphOf(of)),
        stop: () => undefined,
      },
    );

  /** The islands of which something is selected. */
  const selectedIn = (fit: ReturnType<typeof start>): number[] => {
    const { mesh, islands, selected } = fit.kept.getState().value;
    return [...islandsIn(mesh, islands, selected).some];
  };
  /** A triangle of each of some islands. */
  const trianglesOf = (fit: ReturnType<typeof start>, some: readonly number[]): number[] => {
    const { mesh, islands } = fit.kept.getState().value;
    return some.map((island) => [...mesh.indices].findIndex((v) => islands.ofVertex[v] === island) / 3).map(Math.floor);
  };

  it('selects the only island, refuses where nothing is selected, and keeps the selection through cuts', async () => {
    expect(start(shapeMesh('plane', 2)).kept.getState().value.selected).toEqual(allOf(shapeMesh('plane', 2)));
    const fit = start(shapeMesh('cube', 4));
    await fit.refit('planar', { do: 'planar', about: 'z' });
    expect([fit.problem.getState().text, fit.kept.getState().undoes]).toEqual([
      expect.stringContaining('Nothing is selected'),
      undefined,
    ]);
    fit.selecting.these(trianglesOf(fit, [1, 4]), false);
    fit.change(
      'move',
      mapping(() => translateUvs([2, 0])),
    );
    await fit.refit('loops', { do: 'loops', across: 'u', count: 2 });
    const { islands, mesh } = fit.kept.getState().value;
    expect([islands.count, selectedIn(fit).length]).toEqual([6, 2]);
    // Those that were moved away are still selected.
    const far = [...mesh.indices].filter((v) => mesh.uvs[v * 2]! > 1.5).map((v) => islands.ofVertex[v]!);
    expect(new Set(far)).toEqual(new Set(selectedIn(fit)));
    fit.kept.undo();
    fit.kept.undo();
    expect(selectedIn(fit)).toEqual([1, 4]);
  });

  it('goes through islands one by one, round the ends, or adds the next', () => {
    const fit = start(shapeMesh('cube', 2));
    fit.selecting.none();
    const through = Array.from({ length: 7 }, () => {
      fit.selecting.next(1, false);
      return selectedIn(fit);
    });
    expect(through).toEqual([0, 1, 2, 3, 4, 5, 0].map((i) => [i]));
    fit.selecting.next(-1, false);
    fit.selecting.next(-1, true);
    expect(selectedIn(fit)).toEqual([4, 5]);
  });

  it('selects faces, their loops, and what they hang together with in space; a box takes what lies in it', async () => {
    const fit = start(shapeMesh('cube', 3));
    const count = (): number => fit.kept.getState().value.selected.reduce((sum, mark) => sum + mark, 0);
    fit.selecting.setUnit('faces');
    await Promise.resolve();
    fit.selecting.at(0, false);
    expect(count()).toBe(2);
    fit.selecting.at(0, true);
    expect(count()).toBe(0);
    fit.selecting.at(0, false);
    await fit.selecting.loop();
    // Round the cube: a row of quads on each of four of its sides.
    const all = fit.kept.getState().value.selected.length;
    expect(count()).toBe(4 * 2 * Math.sqrt(all / 12));
    await fit.selecting.connected();
    expect(count()).toBe(all);
    const { mesh } = fit.kept.getState().value;
    const us = trianglesWithin(mesh, [0.5, 2], [-2, -2]);
    expect(us.length).toBeGreaterThan(0);
    for (const t of us)
      expect([0, 1, 2].reduce((sum, k) => sum + mesh.uvs[mesh.indices[t * 3 + k]! * 2]!, 0) / 3).toBeLessThanOrEqual(
        0.5,
      );
  });

  it('says why an operation cannot be done, and changes nothing', async () => {
    const fit = start(shapeMesh('plane', 3));
    await fit.refit('unroll', { do: 'unroll', about: 'z' });
    expect([fit.problem.getState().text, fit.kept.getState().undoes]).toEqual([
      expect.stringContaining('covers the middle'),
      undefined,
    ]);
    fit.change(
      'fill',
      mapping((bounds) => normaliseUvs(bounds, false)),
    );
    expect([fit.problem.getState().text, fit.kept.getState().undoes]).toEqual(['', 'fill']);
  });

  it('does what is asked while it works one after another, also drags and what is left behind by the page; undo takes back the last', async () => {
    let ended = 0;
    let answer: (() => void)[] = [];
    const sent: MeshData[] = [];
    const fit = createFit(
      shapeMesh('tube', 6),
      { write: (mesh) => Promise.resolve(sent.push(mesh)), recognise: () => Promise.resolve(undefined) },
      {
        refit: (fitting, how) => new Promise((resolve) => answer.push(() => resolve(refit(fitting, how)))),
        faces: (of) => Promise.resolve(faceGraphOf(of)),
        stop: () => {
          ended++;
          answer = [];
        },
      },
    );
    const state = () => [
      fit.working.getState(),
      fit.problem.getState().text,
      fit.kept.getState().undoes,
      fit.kept.getState().saving,
    ];
    const first = fit.refit('straighten', { do: 'straighten', along: 'u' });
    const second = fit.refit('loops', { do: 'loops', across: 'u', count: 4 });
    const before = fit.kept.getState().value.mesh;
    const rowAt = (u: number): number =>
      [...fit.kept.getState().value.mesh.uvs].filter((x, i) => i % 2 === 0 && Math.abs(x - u) < 1e-4).length;
    // A drag over the end of what is worked at is shown on what came of it.
    fit.preview(mapping(() => translateUvs([1, 0])));
    expect([state(), answer.length]).toEqual([['straighten, then loops', '', undefined, 'waiting'], 1]);
    answer.shift()!();
    await first;
    expect([state(), answer.length]).toEqual([['loops', '', 'straighten', 'waiting'], 1]);
    fit.preview(mapping(() => translateUvs([3, 0])));
    fit.commit('drag');
    fit.change(
      'fill',
      mapping((bounds) => normaliseUvs(bounds, false)),
    );
    expect(fit.working.getState()).toBe('loops, then drag, fill');
    // Nothing else is selected under what waits; undo takes the last of it back.
    fit.selecting.none();
    fit.kept.redo();
    fit.kept.undo();
    answer.shift()!();
    await second;
    expect(state()).toEqual(['', '', 'drag', 'waiting']);
    expect(fit.kept.getState().value.mesh.indices.length).toBeGreaterThan(before.indices.length);
    expect([rowAt(3), rowAt(0)]).toEqual([expect.any(Number), 0]);
    expect(rowAt(3)).toBeGreaterThan(0);
    fit.kept.undo();
    expect([rowAt(0) > 0, fit.kept.getState().undoes]).toEqual([true, 'loops']);

    const third = fit.refit('straighten', { do: 'straighten', along: 'v' });
    const late = answer.shift()!;
    fit.kept.undo();
    await third;
    late();
    await Promise.resolve();
    expect([state(), ended]).toEqual([['', '', 'loops', 'waiting'], 1]);

    // What cannot be done takes with it what counted on it.
    const fourth = fit.refit('unroll', { do: 'unroll', about: 'z' });
    fit.change(
      'move',
      mapping(() => translateUvs([1, 0])),
    );
    answer.shift()!();
    await fourth;
    expect(state()).toEqual(['', expect.stringMatching(/\. So "move" was not done either\.$/), 'loops', 'waiting']);

    // The page is left: what was asked for is done and saved.
    void fit.refit('straighten', { do: 'straighten', along: 'v' });
    const left = fit.finish();
    answer.shift()!();
    await left;
    fit.end();
    expect([state(), ended]).toEqual([['', '', 'straighten', 'saved'], 2]);
    expect(sent.at(-1)).toBe(fit.kept.getState().value.mesh);
  });

  it('finds the island under a place of the layout, whatever the zoom', () => {
    const mesh = shapeMesh('plane', 3);
    const frame = zoomed(fitted(640, 400), 2.5, 300, 120);
    const [x, y] = toPixel(frame, 0.4, 0.7);
    const uv = toUv(frame, x, y);
    expect(uv).toEqual([expect.closeTo(0.4), expect.closeTo(0.7)]);
    expect(triangleAt(mesh, ...uv)).toBeDefined();
    expect(triangleAt(mesh, 1.1, 0.5)).toBeUndefined();
    // What lies under the pointer stays there.
    const [u, v] = toUv(frame, 300, 120);
    expect(toUv(zoomed(frame, 0.3, 300, 120), 300, 120)).toEqual([expect.closeTo(u), expect.closeTo(v)]);
  });

  it('a pace is measured as its points, which stand for metres that fill the way', () => {
    const tube = shapeMesh('tube', 24);
    const measured = measuredPace(tube, new Uint8Array(tube.positions.length / 3).fill(1), 'u')!;
    const points = pointsOf(measured);
    expect(points.reduce((a, b) => a + b, 0) / points.length).toBeCloseTo(1);
    // An even pace runs the whole way in the whole extent.
    expect(unitOf(measured, [1, 1, 1, 1, 1])).toBeCloseTo(measured.length / measured.extent);
    expect(measured.length).toBeGreaterThan(1.6);
  });
});

describe('sets', () => {
  const meshes = [{ id: 'm', name: 'tube' }] as unknown as StoredMesh[];
  const materials = [{ id: 'a', title: 'Mist' }] as unknown as Material[];
  it('puts, changes, doubles and takes away things under ids of their own', () => {
    const one = newItem([], 'sphere', 'a');
    const two = newItem([one], 'm', null);
    expect(two.position[0]).toBeGreaterThan(one.position[0] + 1);
    const set: SetBody = {
      name: 's',
      items: [one, two],
      scene: { environment: 'studio', backdrop: 'plain', exposure: 0 },
      view: null,
    };
    const twice = doubled(set, one);
    expect(new Set(twice.set.items.map((i) => i.id)).size).toBe(3);
    expect(withItem(twice.set, { ...two, scale: 2 }).items.map((i) => i.scale)).toEqual([1, 2, 1]);
    expect(withoutItem(twice.set, one.id).items.map((i) => i.id)).toEqual([two.id, twice.id]);
    expect(nameOfItem(one, meshes, materials)).toEqual(['Sphere', 'Mist']);
    expect(nameOfItem({ ...two, variant: 'Calm', material: 'gone' }, meshes, materials)).toEqual([
      'tube',
      'a deleted material',
    ]);
  });
  it('turns each copy about its own upright as time goes by', () => {
    const mesh = shapeMesh('plane');
    const placing = {
      position: [0, 0, 0],
      turn: [0, 0, 0],
      scale: 1,
      copies: { kind: 'row', count: 2, step: [1, 0, 0] },
    } as const;
    const quarter = modelsOf({ key: 'a', mesh, placing, turning: 8 }, 2);
    expect(quarter).toHaveLength(2);
    // After a quarter of a turn x points away.
    expect([quarter[0]![0], quarter[0]![2]]).toEqual([expect.closeTo(0), expect.closeTo(-1)]);
    expect(quarter[1]![12]).toBeCloseTo(1);
    expect(modelsOf({ key: 'a', mesh, placing, overlay: true }, 2)).toHaveLength(1);
  });
});

describe('on a surface', () => {
  it('paints each triangle in its ink, and lays arrows and boxes that are sound meshes', () => {
    const mesh = shapeMesh('torus', 8);
    const ramp = rampOf(['#000000', '#ffffff']);
    const inks = painted(mesh, (t) => ramp(t === 0 ? 1 : -3));
    expect([...inks.colors!.slice(0, 12)]).toEqual(Array.from({ length: 12 }, () => 1));
    expect([...inks.colors!.slice(12, 15)]).toEqual([0, 0, 0]);
    const velocities = Float32Array.from({ length: mesh.indices.length }, (_, i) => (i % 3 === 0 ? 0.5 : 0));
    const { middle, size, radius } = extentOf(mesh);
    for (const made of [arrowsOn(mesh, velocities, 0.5, radius), boxAbout(middle, size)]) {
      expect(made.indices.length).toBeGreaterThan(100);
      expect(Math.max(...made.indices)).toBeLessThan(made.positions.length / 3);
      expect([...made.positions].every(Number.isFinite)).toBe(true);
      expect(extentOf(made).radius).toBeLessThan(radius * 1.3);
    }
  });
  it('draws coarser while frames are slow, finer once they are quick, and tells their mean now and then', () => {
    const pace = new FramePace();
    let now = 0;
    const run = (count: number, passed: number): number[] =>
      Array.from({ length: count }, () => pace.frame(passed, (now += passed))).filter((ms) => ms !== undefined);
    // One hitch is no reason.
    run(1, 2000);
    run(100, 16);
    expect(pace.quality).toEqual({ scale: 1, samples: 4 });
    const told = run(16, 100);
    expect(pace.quality.scale).toBeLessThan(1);
    expect(told.at(-1)).toBeCloseTo(100);
    run(1000, 16);
    expect(pace.quality).toEqual({ scale: 1, samples: 4 });
    // What is far too slow is drawn as coarsely as can be at once.
    run(3, 900);
    expect(pace.quality.scale).toBeLessThan(0.5);
  });
  it('tries a finer picture less and less often where it is too slow each time', () => {
    const pace = new FramePace();
    let [now, changes, before] = [0, 0, pace.quality];
    // A machine that is quick enough for all but the finest.
    const minute = (frames: number): number => {
      changes = 0;
      for (let i = 0; i < frames; i++) {
        const passed = pace.quality.samples > 0 ? 60 : 16;
        pace.frame(passed, (now += passed));
        if (pace.quality !== before) changes++;
        before = pace.quality;
      }
      return changes;
    };
    const early = minute(3000);
    minute(20_000);
    expect(minute(3000)).toBeLessThan(early / 3);
    expect(pace.quality.scale).toBe(1);
  });
});
