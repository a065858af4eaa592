import { GLTF_IMAGES, GLTF_SIZES } from '@estela/core';
import { Checkbox, FormControlLabel } from '@mui/material';
import type { ReactElement } from 'react';
import { Choice, Line, Part } from '../../ui/fields.tsx';
import type { GlbChoice } from './glb.ts';

const FRAMES = [0, 8, 16, 32, 64] as const;
const IMAGE_WORDS = { png: 'PNG', jpeg: 'JPEG', webp: 'WebP' } as const;

/** How what glTF cannot move is shown in a GLB, and how its textures are. */
export function GlbSettings({
  choice,
  change,
}: {
  readonly choice: GlbChoice;
  readonly change: (next: Partial<GlbChoice>) => void;
}): ReactElement {
  return (
    <>
      <Part title="Animated values">
        <Line name="Export as">
          <Choice
            label="Export as"
            value={String(choice.frames)}
            options={FRAMES.map((frames) => [
              String(frames),
              frames === 0 ? 'Still picture' : `Flipbook, ${String(frames)} frames`,
            ])}
            choose={(frames) => {
              change({ frames: Number(frames) });
            }}
          />
        </Line>
      </Part>
      <Part title="Textures">
        <Line name="Size">
          <Choice
            label="Size"
            value={String(choice.size)}
            options={GLTF_SIZES.map((size) => [String(size), `${String(size)} x ${String(size)}`])}
            choose={(size) => {
              change({ size: Number(size) });
            }}
          />
        </Line>
        <Line name="Stored as">
          <Choice
            label="Stored as"
            value={choice.images}
            options={GLTF_IMAGES.map((type) => [type, IMAGE_WORDS[type]])}
            choose={(images) => {
              change({ images });
            }}
          />
        </Line>
      </Part>
      {choice.instanced !== undefined && (
        <FormControlLabel
          label="Copies as instances of one mesh"
          title="EXT_mesh_gpu_instancing: smaller, for programs that support it"
          control={
            <Checkbox
              size="small"
              checked={choice.instanced}
              onChange={(_, instanced) => {
                change({ instanced });
              }}
            />
          }
        />
      )}
    </>
  );
}
