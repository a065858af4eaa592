/** The server does not write the file; `missing` are images, if that is why. */
export class NotExported extends Error {
  constructor(
    message: string,
    readonly missing: readonly string[],
  ) {
    super(message);
  }
}

/** Reads an answer to its end; tells how far it is, 0..1, where its length is known. */
async function bytesOf(response: Response, progress: (share: number) => void): Promise<Uint8Array<ArrayBuffer>> {
  const length = Number(response.headers.get('content-length') ?? 0);
  const reader = response.body?.getReader();
  if (!reader) return new Uint8Array(await response.arrayBuffer());
  const parts: Uint8Array<ArrayBuffer>[] = [];
  for (let done = 0; ;) {
    const part = await reader.read();
    if (part.done) break;
    parts.push(part.value);
    done += part.value.length;
    if (length > 0) progress(done / length);
  }
  return new Uint8Array(await new Blob(parts).arrayBuffer());
}

/** Fetches a file that the server writes; its name is without its ending. Throws NotExported, or an Error with a plain sentence. */
export async function fetchFile(
  address: string,
  signal: AbortSignal,
  progress: (share: number) => void = () => undefined,
): Promise<{ readonly bytes: Uint8Array<ArrayBuffer>; readonly name: string }> {
  const response = await fetch(address, { signal }).catch((error: unknown) => {
    if (signal.aborted) throw error;
    throw new Error('The server cannot be reached.');
  });
  if (!response.ok) {
    const problem = (await response.json().catch(() => ({}))) as {
      readonly detail?: string;
      readonly missing?: readonly string[];
    };
    throw new NotExported(problem.detail ?? `The server answered ${String(response.status)}.`, problem.missing ?? []);
  }
  const [, name = 'material'] = /filename="(.*)\.\w+"/.exec(response.headers.get('content-disposition') ?? '') ?? [];
  return { bytes: await bytesOf(response, progress), name };
}
