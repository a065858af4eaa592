import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { mapped, moved, normalised, boundsOf, planar, shapeMesh, unrolled, withLoops, type MeshData } from '@estela/core';
import { ApiError, type Material, type SetBody, type StoredMesh } from '../src/api/client.ts';
import { createKept } from '../src/app/kept.ts';
import { arrowsOn, boxAbout, painted, rampOf } from '../src/bench/stage/paint.ts';
import { FramePace } from '../src/bench/stage/pace.ts';
import { modelsOf } from '../src/bench/stage/stage-items.ts';
import { createFit } from '../src/fit/fit-store.ts';
import { measuredPace, pointsOf, unitOf } from '../src/fit/pace-curve.ts';
import { fitted, toPixel, toUv, vertexAt, zoomed } from '../src/fit/uv-frame.ts';
import { extentOf } from '../src/meshes/mesh-data.ts';
import { doubled, nameOfItem, newItem, withItem, withoutItem } from '../src/sets/set-edits.ts';

describe('what is kept', () => {
  beforeEach(() => {
    jest.useFakeTimers();
  });
  afterEach(() => {
    jest.useRealTimers();
  });
  const rest = async (): Promise<void> => {
    await jest.advanceTimersByTimeAsync(1000);
  };

  it('is saved once it rests, with the newest value, and undone one step at a time', async () => {
    const sent: number[] = [];
    const kept = createKept(0, (value) => Promise.resolve(sent.push(value)));
    kept.become('one', 1);
    kept.become('two', 2);
    expect([kept.getState().saving, sent]).toEqual(['waiting', []]);
    await rest();
    expect([kept.getState().saving, sent]).toEqual(['saved', [2]]);
    kept.undo();
    expect(kept.getState()).toMatchObject({ value: 1, undoes: 'one', redoes: 'two' });
    kept.redo();
    expect(kept.getState()).toMatchObject({ value: 2, undoes: 'two', redoes: undefined });
    await rest();
    // It is what was saved already.
    expect(sent).toEqual([2]);
  });

  it('joins changes of one group, and drags, into one undo each', () => {
    const kept = createKept(0, () => Promise.resolve());
    for (const value of [1, 2, 3]) kept.become('step', value, 'x');
    kept.become('step', 4, 'y');
    for (const value of [5, 6, 7]) kept.preview(value);
    expect(kept.settled()).toBe(4);
    kept.commit('drag');
    kept.preview(9);
    kept.preview(undefined);
    expect(kept.getState().value).toBe(7);
    const values = [];
    while (kept.getState().undoes !== undefined) {
      values.push(kept.getState().value);
      kept.undo();
    }
    expect([...values, kept.getState().value]).toEqual([7, 4, 3, 0]);
  });

  it('tells what was changed elsewhere and writes nothing over it until asked; tries again what failed', async () => {
    let answer: (value: number) => Promise<unknown> = () => Promise.reject(new ApiError(412, 'changed'));
    const kept = createKept(0, (value) => answer(value));
    kept.become('one', 1);
    await rest();
    expect(kept.getState()).toMatchObject({ saving: 'stale', message: 'changed', value: 1 });
    kept.become('two', 2);
    await rest();
    expect(kept.getState().saving).toBe('stale');
    answer = () => Promise.reject(new Error('no server'));
    await kept.flush();
    expect(kept.getState()).toMatchObject({ saving: 'failed', message: 'no server' });
    answer = () => Promise.resolve();
    await kept.flush();
    expect(kept.getState()).toMatchObject({ saving: 'saved', value: 2 });
  });
});

describe('Fit', () => {
  const start = (mesh: MeshData) => createFit(mesh, () => Promise.resolve());

  it('chooses the only island, refuses where none is chosen, and keeps what was chosen through cuts', () => {
    expect(start(shapeMesh('plane', 2)).kept.getState().value.chosen).toEqual(new Set([0]));
    const fit = start(shapeMesh('cube', 4));
    fit.apply('planar', (mesh, part) => planar(mesh, part, 'z'));
    expect([fit.problem.getState(), fit.kept.getState().undoes]).toEqual([expect.stringContaining('Nothing is chosen'), undefined]);
    fit.choose([1, 4]);
    fit.apply('move', (mesh, part) => ({ mesh: mapped(mesh, part, moved([2, 0])) }));
    fit.apply('loops', (mesh, part) => withLoops(mesh, part, 'u', 2));
    const { chosen, islands, mesh } = fit.kept.getState().value;
    expect([islands.count, chosen.size]).toEqual([6, 2]);
    // Those that were moved away are still the chosen ones.
    const far = [...mesh.indices].filter((v) => mesh.uvs[v * 2]! > 1.5).map((v) => islands.ofVertex[v]!);
    expect(new Set(far)).toEqual(chosen);
    fit.kept.undo();
    fit.kept.undo();
    expect(fit.kept.getState().value.chosen).toEqual(new Set([1, 4]));
  });

  it('says why an operation cannot be done, and changes nothing', () => {
    const fit = start(shapeMesh('plane', 3));
    fit.apply('unroll', (mesh, part) => unrolled(mesh, part, 'z'));
    expect([fit.problem.getState(), fit.kept.getState().undoes]).toEqual([expect.stringContaining('covers the middle'), undefined]);
    fit.apply('fill', (mesh, part) => ({ mesh: mapped(mesh, part, normalised(boundsOf(mesh, part)!, false)) }));
    expect([fit.problem.getState(), fit.kept.getState().undoes]).toEqual(['', 'fill']);
  });

  it('finds the island under a place of the layout, whatever the zoom', () => {
    const mesh = shapeMesh('plane', 3);
    const frame = zoomed(fitted(640, 400), 2.5, 300, 120);
    const [x, y] = toPixel(frame, 0.4, 0.7);
    const uv = toUv(frame, x, y);
    expect(uv).toEqual([expect.closeTo(0.4), expect.closeTo(0.7)]);
    expect(vertexAt(mesh, ...uv)).toBeDefined();
    expect(vertexAt(mesh, 1.1, 0.5)).toBeUndefined();
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
    const set: SetBody = { name: 's', items: [one, two], scene: { environment: 'studio', backdrop: 'plain', exposure: 0 }, view: null };
    const twice = doubled(set, one);
    expect(new Set(twice.set.items.map((i) => i.id)).size).toBe(3);
    expect(withItem(twice.set, { ...two, scale: 2 }).items.map((i) => i.scale)).toEqual([1, 2, 1]);
    expect(withoutItem(twice.set, one.id).items.map((i) => i.id)).toEqual([two.id, twice.id]);
    expect(nameOfItem(one, meshes, materials)).toEqual(['Sphere', 'Mist']);
    expect(nameOfItem({ ...two, variant: 'Calm', material: 'gone' }, meshes, materials)).toEqual(['tube', 'a deleted material']);
  });
  it('turns each copy about its own upright as time goes by', () => {
    const mesh = shapeMesh('plane');
    const placing = { position: [0, 0, 0], turn: [0, 0, 0], scale: 1, copies: { kind: 'row', count: 2, step: [1, 0, 0] } } as const;
    const quarter = modelsOf({ key: 'a', mesh, placing, turning: 8 }, 2);
    expect(quarter).toHaveLength(2);
    // After a quarter of a turn x points away.
    expect([quarter[0]![0], quarter[0]![2]]).toEqual([expect.closeTo(0), expect.closeTo(-1)]);
    expect(quarter[1]![12]).toBeCloseTo(1);
    expect(modelsOf({ key: 'a', mesh, placing, film: true }, 2)).toHaveLength(1);
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
  it('draws fewer pixels while frames are slow, more once they are quick, and tells their mean now and then', () => {
    const pace = new FramePace();
    let now = 0;
    const run = (count: number, passed: number): number[] =>
      Array.from({ length: count }, () => pace.frame(passed, (now += passed))).filter((ms) => ms !== undefined);
    const told = run(40, 100);
    expect(pace.scale).toBeLessThan(0.5);
    expect(told.length).toBeGreaterThan(4);
    expect(told.at(-1)).toBeCloseTo(100);
    run(1000, 16);
    expect(pace.scale).toBe(1);
  });
});
