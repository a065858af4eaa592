import { Box, IconButton, Menu, MenuItem, Typography } from '@mui/material';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import { Link } from 'react-router';
import type { Material, Source } from '../api/client.ts';
import { MoreIcon } from '../ui/icons.tsx';
import { CaptionLink, CardItem } from '../ui/CardItem.tsx';
import { tokens } from '../ui/tokens.ts';
import type { TextureSupply } from '../gl/textures.ts';
import { VerdictMark } from './VerdictMark.tsx';
import { PicturePlayer } from '../viewport/picture-player.ts';

const player = new PicturePlayer();

export interface CardActions {
  readonly rename: (material: Material) => void;
  readonly duplicate: (material: Material) => void;
  readonly remove: (material: Material) => void;
}

/** A material on the Shelf: its playing picture, its title, and what can be done with it. */
export function MaterialCard({
  material,
  sources,
  refs,
  actions,
}: {
  readonly material: Material;
  readonly sources: TextureSupply;
  readonly refs: readonly Source[];
  readonly actions: CardActions;
}): ReactElement {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  useEffect(
    () => (canvas.current ? player.show(canvas.current, material.text, sources) : undefined),
    [material.text, sources],
  );
  const choose = (action: (material: Material) => void) => (): void => {
    setMenu(null);
    action(material);
  };
  return (
    <CardItem>
      <Box
        component={Link}
        to={`/materials/${material.id}`}
        tabIndex={-1}
        aria-hidden="true"
        sx={{ display: 'block', bgcolor: tokens.pit }}
      >
        <Box
          component="canvas"
          ref={canvas}
          width={192}
          height={192}
          aria-hidden="true"
          sx={{ display: 'block', width: '100%', aspectRatio: '1' }}
        />
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', pl: 1, pr: 0.5, height: 34 }}>
        <Typography component="h3" noWrap sx={{ flex: 1, fontWeight: 500 }}>
          <CaptionLink to={`/materials/${material.id}`} label={`Open ${material.title}`}>
            {material.title}
          </CaptionLink>
        </Typography>
        <VerdictMark text={material.text} sources={refs} />
        <IconButton
          aria-label={`More for ${material.title}`}
          aria-haspopup="menu"
          onClick={(event) => {
            setMenu(event.currentTarget);
          }}
        >
          <MoreIcon />
        </IconButton>
        <Menu
          anchorEl={menu}
          open={menu !== null}
          onClose={() => {
            setMenu(null);
          }}
        >
          <MenuItem onClick={choose(actions.rename)}>Rename</MenuItem>
          <MenuItem component={Link} to={`/materials/${material.id}/export`}>
            Export
          </MenuItem>
          <MenuItem component={Link} to={`/materials/${material.id}/export?part=gltf`}>
            Export as GLB
          </MenuItem>
          <MenuItem onClick={choose(actions.duplicate)}>Duplicate</MenuItem>
          <MenuItem onClick={choose(actions.remove)}>Delete</MenuItem>
        </Menu>
      </Box>
    </CardItem>
  );
}
