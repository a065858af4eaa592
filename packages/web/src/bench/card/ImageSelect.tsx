import { declareTexture, type Program, type TextEdit } from '@estela/core';
import { Box, ListSubheader, MenuItem, Select, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { sentence, type Source } from '../../api/client.ts';
import { SourcePicture } from '../../project/SourcePicture.tsx';
import { tokens } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';
import { textureOf } from '../textures/place-texture.ts';
import type { TextHost } from '../values/text-host.ts';

/** Picks what an argument reads: the images that the text declares, and with `sources` all others of the project. */
export function ImageSelect({
  host,
  label,
  value,
  sources: all,
  edits,
}: {
  readonly host: TextHost;
  readonly label: string;
  readonly value: string;
  readonly sources: boolean;
  /** Writes an image's name as the argument. */
  readonly edits: (program: Program, name: string) => readonly TextEdit[];
}): ReactElement {
  const { sources } = useSession();
  const list = useStore(sources, (s) => s.sources);
  const [problem, setProblem] = useState('');
  const program = host.program();
  const { images } = program;
  const others = all ? list.filter((s) => !images.some((i) => i.source === s.name)) : [];
  const pick = async (source: Source): Promise<void> => {
    setProblem('');
    try {
      const texture = await textureOf(source);
      // Of an older text than that of now the argument may stand elsewhere.
      if (host.program().tree.text !== program.tree.text) return;
      const { name, edits: declaration } = declareTexture(program, texture);
      host.edit([...declaration, ...edits(program, name)]);
    } catch (error) {
      setProblem(sentence(error));
    }
  };
  const row = (source: Source | undefined, name: string): ReactElement => (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, minWidth: 0 }}>
      <Box sx={{ width: 22, height: 22, flex: 'none', bgcolor: tokens.pit }}>
        {source && <SourcePicture source={source} size={44} />}
      </Box>
      <Typography noWrap>{name}</Typography>
    </Box>
  );
  return (
    <Box sx={{ minWidth: 0 }}>
      <Select
        size="small"
        value={images.some((i) => i.name === value) ? value : ''}
        slotProps={{ input: { 'aria-label': label } }}
        renderValue={(name) =>
          row(
            list.find((s) => s.name === images.find((i) => i.name === name)?.source),
            name,
          )
        }
        onChange={(event) => {
          const source = others.find((s) => `source ${s.id}` === event.target.value);
          if (source) void pick(source);
          else host.edit(edits(program, event.target.value));
        }}
        sx={{ width: 168, height: 28 }}
      >
        {images.length > 0 && <ListSubheader sx={{ lineHeight: '28px' }}>In this material</ListSubheader>}
        {images.map(({ name, source }) => (
          <MenuItem key={name} value={name}>
            {row(
              list.find((s) => s.name === source),
              name,
            )}
          </MenuItem>
        ))}
        {others.length > 0 && <ListSubheader sx={{ lineHeight: '28px' }}>In this project</ListSubheader>}
        {others.map((source) => (
          <MenuItem key={source.id} value={`source ${source.id}`}>
            {row(source, source.name)}
          </MenuItem>
        ))}
      </Select>
      {problem !== '' && (
        <Typography role="alert" sx={{ color: tokens.coral }}>
          {problem}
        </Typography>
      )}
    </Box>
  );
}
