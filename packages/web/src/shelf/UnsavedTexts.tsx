import { Button } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import { Link } from 'react-router';
import { findDrafts, type Draft } from '../history/drafts.ts';
import { NoticeLine } from '../ui/NoticeLine.tsx';
import type { ShelfProject } from './shelf-store.ts';

/** Materials that are on the Shelf no more, of which this browser keeps text that was never saved: a way to each. */
export function UnsavedTexts({ projects }: { readonly projects: readonly ShelfProject[] }): ReactElement | null {
  const [drafts, setDrafts] = useState<readonly Draft[]>([]);
  useEffect(() => {
    let current = true;
    void findDrafts().then((found) => {
      if (current) setDrafts(found);
    });
    return () => {
      current = false;
    };
  }, [projects]);
  const here = new Set(projects.flatMap((p) => p.materials.map((m) => m.id)));
  // The newest of each.
  const gone = drafts.filter(
    (d, i) => !here.has(d.material) && drafts.findIndex((other) => other.material === d.material) === i,
  );
  if (gone.length === 0) return null;
  return (
    <NoticeLine>
      Unsaved text of {gone.length === 1 ? 'a deleted material' : 'deleted materials'} is kept in this browser:
      {gone.map(({ material, title }) => (
        <Button key={material} component={Link} to={`/materials/${material}`}>
          {title === '' ? 'Untitled' : title}
        </Button>
      ))}
    </NoticeLine>
  );
}
