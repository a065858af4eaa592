import { useEffect, useState } from 'react';
import { sentence } from '../api/client.ts';
import { NotExported } from '../project/fetch-zip.ts';
import { fetchPackage, type Package, type PackageQuery } from './package.ts';

export type PackageState =
  | { readonly state: 'loading'; readonly share: number }
  | { readonly state: 'ready'; readonly made: Package }
  | { readonly state: 'refused'; readonly message: string; readonly missing: readonly string[] };

const LOADING: PackageState = { state: 'loading', share: 0 };

/** The package of a material as it is asked for; another question ends the one before. */
export function usePackage(material: string, query: PackageQuery, attempt: number): PackageState {
  const [known, setKnown] = useState<{ readonly of: string; readonly state: PackageState }>();
  const asked = JSON.stringify(query);
  const of = JSON.stringify([material, query, attempt]);
  useEffect(() => {
    const abort = new AbortController();
    const tell = (state: PackageState): void => {
      if (!abort.signal.aborted) setKnown({ of, state });
    };
    fetchPackage(material, JSON.parse(asked) as PackageQuery, abort.signal, (share) => {
      tell({ state: 'loading', share });
    }).then(
      (made) => {
        tell({ state: 'ready', made });
      },
      (error: unknown) => {
        const missing = error instanceof NotExported ? error.missing : [];
        tell({ state: 'refused', message: sentence(error), missing });
      },
    );
    return () => {
      abort.abort();
    };
  }, [material, asked, of]);
  // What is known of another question is no answer to this one.
  return known?.of === of ? known.state : LOADING;
}
