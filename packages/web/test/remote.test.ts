import { MessageChannel, type MessagePort } from 'node:worker_threads';
import { afterEach, describe, expect, it } from '@jest/globals';
import { expose, type Endpoint } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import { remotely } from '../src/workers/remote.ts';

/** What a worker is to the page: a port to what it can be asked, which may die. */
class FakeWorker extends EventTarget {
  static made: FakeWorker[] = [];
  static readonly ports: MessagePort[] = [];
  ended = false;
  readonly #page: Endpoint;
  constructor() {
    super();
    FakeWorker.made.push(this);
    const { port1, port2 } = new MessageChannel();
    FakeWorker.ports.push(port1, port2);
    this.#page = nodeEndpoint(port1);
    const number = FakeWorker.made.length;
    expose(
      {
        who: () => number,
        think: () => new Promise(() => undefined),
        fail: () => Promise.reject(new Error('no such thing')),
      },
      nodeEndpoint(port2),
    );
  }
  postMessage(message: unknown, transfer?: Transferable[]): void {
    this.#page.postMessage(message, transfer);
  }
  override addEventListener(type: string, listener: EventListenerOrEventListenerObject): void {
    if (type === 'message') this.#page.addEventListener(type, listener);
    else super.addEventListener(type, listener);
  }
  override removeEventListener(type: string, listener: EventListenerOrEventListenerObject): void {
    if (type === 'message') this.#page.removeEventListener(type, listener);
    else super.removeEventListener(type, listener);
  }
  terminate(): void {
    this.ended = true;
  }
  die(message: string): void {
    this.dispatchEvent(Object.assign(new Event('error', { cancelable: true }), { message }));
  }
}

interface Work {
  readonly who: () => number;
  readonly think: () => Promise<void>;
  readonly fail: () => Promise<void>;
}

describe('a worker that is asked from the page', () => {
  afterEach(() => {
    for (const port of FakeWorker.ports) port.close();
    FakeWorker.made = [];
  });
  const asked = () => remotely<Work>(() => new FakeWorker() as unknown as Worker);

  it('is started when it is first asked, once, and answers or refuses as it does', async () => {
    const { work } = asked();
    expect(FakeWorker.made).toHaveLength(0);
    expect([await work().who(), await work().who(), FakeWorker.made.length]).toEqual([1, 1, 1]);
    await expect(work().fail()).rejects.toThrow('no such thing');
    // What holds it can be awaited without asking it anything.
    await expect(Promise.resolve(work())).resolves.toBeDefined();
  });

  it('where it dies fails all that it was asked, and the next question starts another', async () => {
    const { work } = asked();
    const [first, second] = [work().think(), work().think()];
    FakeWorker.made[0]!.die('out of memory');
    await expect(first).rejects.toThrow('out of memory');
    await expect(second).rejects.toThrow('out of memory');
    expect([FakeWorker.made[0]!.ended, await work().who()]).toEqual([true, 2]);
    // A late word of the first takes nothing from the second.
    FakeWorker.made[0]!.die('');
    expect(await work().who()).toBe(2);
    const third = work().think();
    FakeWorker.made[1]!.die('');
    await expect(third).rejects.toThrow('The worker ended.');
  });

  it('is ended where it says nothing for too long, and whoever waits is told', async () => {
    const failed: string[] = [];
    const { work } = remotely<Work>(() => new FakeWorker() as unknown as Worker, {
      patience: 60,
      failed: (why) => failed.push(why),
    });
    expect(await work().who()).toBe(1);
    // At rest it may be silent for as long as it likes.
    await new Promise((rest) => setTimeout(rest, 120));
    expect(failed).toEqual([]);
    await expect(work().think()).rejects.toThrow('did not respond');
    expect([failed, FakeWorker.made[0]!.ended, await work().who()]).toEqual([['stuck'], true, 2]);
  });

  it('hears the most urgent question first, where they wait for each other', async () => {
    const { work } = remotely<Work>(() => new FakeWorker() as unknown as Worker, {
      rank: (question) => ({ who: 1, think: 0, fail: 2 })[question],
    });
    const order: string[] = [];
    const note = (word: string) => () => void order.push(word);
    await Promise.all([
      work().who().then(note('first')),
      work().who().then(note('later')),
      work().fail().catch(note('urgent')),
    ]);
    expect(order).toEqual(['first', 'urgent', 'later']);
  });

  it('is stopped with what it is at, and started anew', async () => {
    const { work, stop } = asked();
    stop();
    let settled = false;
    const rest = work()
      .think()
      .finally(() => (settled = true));
    void rest;
    stop();
    expect([FakeWorker.made[0]!.ended, await work().who(), settled]).toEqual([true, 2, false]);
  });
});
