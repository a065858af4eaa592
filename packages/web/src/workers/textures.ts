import { transfer } from 'comlink';
import type { DecodingPort } from './decoded.ts';
import { remotely, type Begun } from './remote.ts';
import type { TextureWork } from './textures.worker.ts';

/** Those who read pixels, with how urgent their questions are. */
const readers = new Map<Worker, number>();

/** Milliseconds before one that ended is started again for those who read. */
const RESTART = 1000;

function connect(reader: Worker, urgency: number): void {
  const { port1, port2 } = new MessageChannel();
  textures()
    .serve(transfer(port1, [port1]), urgency)
    .catch(() => undefined);
  reader.postMessage({ decoding: port2 } satisfies DecodingPort, [port2]);
}

/** The worker that decodes sources and makes textures of them. */
export const { work: textures } = remotely<TextureWork>(
  () => new Worker(new URL('./textures.worker.ts', import.meta.url), { type: 'module', name: 'textures' }),
  {
    begun() {
      for (const [reader, urgency] of readers) connect(reader, urgency);
    },
    // What was asked of the one that ended is refused once there is another; not at once, as that may end like it.
    ended() {
      setTimeout(() => {
        if (readers.size > 0) textures();
      }, RESTART);
    },
  },
);

/** Lets a worker read decoded pixels for as long as it runs; the most urgent are decoded first. */
export const reading = (urgency: number): Begun => ({
  begun(worker) {
    // Where this starts it, it connects those it knows: not this one twice.
    textures();
    readers.set(worker, urgency);
    connect(worker, urgency);
  },
  ended(worker) {
    readers.delete(worker);
  },
});
