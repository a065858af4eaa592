import { unzipSync, zipSync, type Zippable } from 'fflate';

/** Files by their path, as one zip. Pictures and meshes are packed already. */
export function zipped(files: ReadonlyMap<string, Uint8Array<ArrayBuffer>>): Uint8Array<ArrayBuffer> {
  const entries: Zippable = {};
  for (const [name, bytes] of files) entries[name] = [bytes, { level: /\.(wake|json|md)$/.test(name) ? 6 : 0 }];
  return zipSync(entries);
}

/** The files of a zip by their path. Throws where it would unpack to more than `most` bytes, or is no zip. */
export function unzipped(bytes: Uint8Array<ArrayBuffer>, most: number): ReadonlyMap<string, Uint8Array<ArrayBuffer>> {
  let total = 0;
  const files = unzipSync(bytes, {
    filter: ({ originalSize }) => {
      total += originalSize;
      return total <= most;
    },
  });
  if (total > most) throw new Error(`It unpacks to more than ${String(Math.round(most / 2 ** 20))} MB.`);
  return new Map(Object.entries(files));
}
