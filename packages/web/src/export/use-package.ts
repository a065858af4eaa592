import { useEffect, useState } from 'react';
import { sentence } from '../api/client.ts';
import { NotExported } from '../project/fetch-zip.ts';
import { fetchPackage, type Package, type PackageQuery } from './package.ts';

export type PackageState =
  | { readonly state: 'loading'; readonly share: number }
  | { readonly state: 'ready'; readonly made: Package }
  | { readonly state: 'refused'; readonly message: string; readonly missing: readonly string[] };

/** The package of a material as it is asked for; another question ends the one before. */
export function usePackage(material: string, query: PackageQuery, attempt: number): PackageState {
  const [state, setState] = useState<PackageState>({ state: 'loading', share: 0 });
  const key = JSON.stringify(query);
  useEffect(() => {
    const abort = new AbortController();
    setState({ state: 'loading', share: 0 });
    fetchPackage(material, JSON.parse(key) as PackageQuery, abort.signal, (share) => {
      if (!abort.signal.aborted) setState({ state: 'loading', share });
    }).then(
      (made) => {
        if (!abort.signal.aborted) setState({ state: 'ready', made });
      },
      (error: unknown) => {
        if (abort.signal.aborted) return;
        const missing = error instanceof NotExported ? error.missing : [];
        setState({ state: 'refused', message: sentence(error), missing });
      },
    );
    return () => {
      abort.abort();
    };
  }, [material, key, attempt]);
  return state;
}
