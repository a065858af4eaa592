import { mkdtempSync, readdirSync, writeFileSync } from 'node:fs';
import { createHash, randomBytes } from 'node:crypto';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { describe, expect, it } from '@jest/globals';
import { bakePlan, bandLength, bandMaker, check, parse, type BakeChunk } from '@estela/core';
import { deflateBand } from '@estela/codecs/files';
import fc from 'fast-check';
import type { BakeEngine, BakeSink, BakeWork, Taken } from '../src/bakes/queue/bake-queue.ts';
import { BakeTurns } from '../src/bakes/queue/turns.ts';
import { mostBytes, packBands, unpackBands } from '../src/bakes/workers/chunk-body.ts';
import { WorkersService } from '../src/bakes/workers/workers.service.ts';
import { FileCache } from '../src/worker/image-cache.ts';
import { SHEET, TEXT } from './baking.ts';

const program = check(parse(TEXT));
const plan = bakePlan(program, SHEET);
const make = bandMaker(program, plan, () => undefined, deflateBand);
const bands = [...plan.bands.keys()].map(make);
const expected = plan.bands.map((band) => ({ length: bandLength(plan, band), last: band.last }));

describe('a chunk on the wire', () => {
  const packed = packBands(bands);

  it('comes as it was sent', () => {
    expect(unpackBands(packed, expected)).toEqual(bands);
    expect(packed.length).toBeLessThanOrEqual(mostBytes(expected));
  });

  it('is refused where anything of it is not as it was', () => {
    const places = fc.nat(packed.length - 1);
    fc.assert(
      fc.property(places, fc.integer({ min: 1, max: 255 }), (at, change) => {
        const wrong = Uint8Array.from(packed);
        wrong[at]! ^= change;
        // Bits that fill up the last byte of a stream mean nothing: then the bands are the same.
        try {
          const read = unpackBands(wrong, expected);
          expect(read.map(({ adler, length }) => [adler, length])).toEqual(bands.map((b) => [b.adler, b.length]));
        } catch (error) {
          expect((error as Error).message).toMatch(/^(Band \d+ of this chunk |This chunk has extra bytes after)/);
        }
      }),
    );
    fc.assert(
      fc.property(places, (length) => {
        expect(() => unpackBands(packed.subarray(0, length), expected)).toThrow(/^Band/);
      }),
    );
    expect(() => unpackBands(Buffer.concat([packed, packed]), expected)).toThrow('after its last band');
    expect(() =>
      unpackBands(
        packed,
        expected.toReversed().map((b) => ({ ...b, length: b.length + 1 })),
      ),
    ).toThrow('bytes, not');
  });
});

it('a small bake does not wait for a large one, whatever the order', async () => {
  const told: string[] = [];
  const sink: BakeSink = {
    file: () => Promise.reject(new Error()),
    began: () => Promise.resolve(),
    kept: () => Promise.resolve(),
    finished: (id) => Promise.resolve(void told.push(id)),
    failed: (id, error) => Promise.resolve(void told.push(`${id} ${String(error)}`)),
  };
  const given: string[] = [];
  const engine: BakeEngine = {
    queue: undefined,
    isUp: true,
    waits: undefined,
    room: 3,
    changed: () => undefined,
    async compute({ work }: Taken, { first }: BakeChunk) {
      given.push(work.id);
      await pause(1);
      if (work.id === 'wrong' && first === 1) throw new Error('broken');
    },
    end: () => Promise.resolve(),
  };
  const turns = new BakeTurns(sink, engine);
  const workOf = (id: string, count: number): BakeWork =>
    ({ id, chunks: Array.from({ length: count }, (_, first) => ({ first, end: first + 1 })) }) as unknown as BakeWork;
  turns.enqueue(workOf('large', 200));
  turns.enqueue(workOf('small', 5));
  turns.enqueue(workOf('wrong', 9));
  turns.enqueue(workOf('none', 0));
  while (told.length < 4) await pause(1);
  expect(told).toEqual(['none', 'wrong Error: broken', 'small', 'large']);
  expect(given.filter((id) => id === 'large')).toHaveLength(200);
  expect(given.lastIndexOf('small')).toBeLessThan(25);
});

it('the register tells who has what in hand, and how fast they are', async () => {
  const workers = new WorkersService();
  workers.put('a', { name: 'alder', jobs: 2 }, 50);
  workers.took('a', { bakeId: 'x', first: 0 });
  workers.took('a', { bakeId: 'x', first: 4 });
  workers.holds('a', [
    { bakeId: 'x', first: 4 },
    { bakeId: 'y', first: 1 },
  ]);
  expect(workers.list()).toMatchObject([
    {
      state: 'busy',
      rate: null,
      at: new Map([
        ['x', 1],
        ['y', 1],
      ]),
    },
  ]);
  await pause(20);
  workers.ended('a', { bakeId: 'x', first: 4 }, 3);
  workers.ended('a', { bakeId: 'y', first: 1 });
  const [one] = workers.list();
  expect([one!.state, one!.chunks, workers.there]).toEqual(['idle', 1, { workers: 1, jobs: 2 }]);
  expect(one!.rate).toBeGreaterThan(10);
  await pause(60);
  expect([workers.list()[0]!.state, workers.there]).toEqual(['lost', { workers: 0, jobs: 0 }]);
});

it('files are kept by their hash: fetched once, read through, and the oldest go', async () => {
  const all = Array.from({ length: 4 }, () => randomBytes(1000));
  const hashes = all.map((bytes) => createHash('sha256').update(bytes).digest('hex'));
  let [fetched, broken] = [0, 0];
  const folder = mkdtempSync(join(tmpdir(), 'estela-files-'));
  const cache = new FileCache(folder, 2500, (hash) => {
    fetched++;
    return Promise.resolve(broken-- > 0 ? Buffer.from('nonsense') : all[hashes.indexOf(hash)]!);
  });
  expect(await Promise.all([0, 0, 1].map((i) => cache.get(hashes[i]!)))).toEqual([all[0], all[0], all[1]]);
  expect(fetched).toBe(2);
  await pause(20);
  await cache.get(hashes[0]!);
  await cache.get(hashes[2]!);
  expect(readdirSync(folder).sort()).toEqual([hashes[0], hashes[2]].sort());
  writeFileSync(join(folder, hashes[0]!), 'torn');
  broken = 1;
  expect(await cache.get(hashes[0]!)).toEqual(all[0]);
  expect(fetched).toBe(5);
  broken = 3;
  await expect(cache.get(hashes[3]!)).rejects.toThrow('does not match its hash');
});
