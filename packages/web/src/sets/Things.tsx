import { Box, Button, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import type { Material, SetBody, SetItem, StoredMesh } from '../api/client.ts';
import type { AutosavedHistory } from '../history/autosaved-history.ts';
import { tokens } from '../ui/tokens.ts';
import { MeshMenu } from '../project/MeshMenu.tsx';
import { doubled, nameOfItem, withoutItem } from '../project/set-edits.ts';

/** What stands on a set, one line a thing: chosen, added, doubled and taken away. */
export function Things({
  kept,
  items,
  chosen,
  choose,
  put,
  meshes,
  materials,
}: {
  readonly kept: AutosavedHistory<SetBody>;
  readonly items: readonly SetItem[];
  readonly chosen: SetItem | undefined;
  readonly choose: (id: string | undefined) => void;
  /** Puts another thing there, of a mesh by its id or a shape by its name. */
  readonly put: (mesh: string) => void;
  readonly meshes: readonly StoredMesh[];
  readonly materials: readonly Material[];
}): ReactElement {
  return (
    <>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5, px: 1, height: 36 }}>
        <Typography sx={{ fontWeight: 500, mr: 'auto' }}>
          {items.length === 1 ? '1 object' : `${String(items.length)} objects`}
        </Typography>
        <MeshMenu label="Add object" main meshes={meshes} take={put} />
        <Button
          disabled={!chosen}
          onClick={() => {
            if (!chosen) return;
            const { set, id } = doubled(kept.settled(), chosen);
            kept.become('duplicate', set);
            choose(id);
          }}
        >
          Duplicate
        </Button>
        <Button
          disabled={!chosen}
          onClick={() => {
            if (!chosen) return;
            kept.become('remove object', withoutItem(kept.settled(), chosen.id));
            choose(items.find((i) => i.id !== chosen.id)?.id);
          }}
        >
          Remove
        </Button>
      </Box>
      {items.length === 0 ? (
        <Box sx={{ p: 1.5, color: 'text.secondary', borderTop: 1, borderColor: 'divider' }}>
          The set is empty. Add a shape or a mesh of the project.
        </Box>
      ) : (
        <Box
          component="ul"
          aria-label="Objects on the set"
          sx={{ m: 0, p: 0, listStyle: 'none', borderTop: 1, borderBottom: 1, borderColor: 'divider' }}
        >
          {items.map((item) => {
            const [mesh, dress] = nameOfItem(item, meshes, materials);
            const isChosen = item.id === chosen?.id;
            return (
              <li key={item.id}>
                <Button
                  fullWidth
                  aria-pressed={isChosen}
                  onClick={() => {
                    choose(item.id);
                  }}
                  sx={{
                    justifyContent: 'flex-start',
                    textAlign: 'left',
                    borderRadius: 0,
                    px: 1.5,
                    bgcolor: isChosen ? tokens.raise : 'transparent',
                    fontWeight: 400,
                  }}
                >
                  {mesh}
                  <Box
                    component="span"
                    sx={{
                      ml: 1,
                      color: 'text.secondary',
                      overflow: 'hidden',
                      textOverflow: 'ellipsis',
                      whiteSpace: 'nowrap',
                    }}
                  >
                    {dress}
                    {item.copies ? `, ${String(item.copies.count)} times` : ''}
                  </Box>
                </Button>
              </li>
            );
          })}
        </Box>
      )}
    </>
  );
}
