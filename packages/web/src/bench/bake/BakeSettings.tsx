import { CHANNELS, columnsFor, type Channel } from '@estela/core';
import { Box, Button, Checkbox, FormControlLabel, TextField } from '@mui/material';
import { useState, type ComponentProps, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { Choice, Line } from '../../ui/fields.tsx';
import { NumberField } from '../../ui/NumberField.tsx';
import { faces } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';
import type { BakeDraft, Taking } from './draft.ts';

const row = { display: 'flex', alignItems: 'center', gap: 0.75, minWidth: 0 } as const;

/** What is to be baked: size, frames, channels, and behind a button all that is seldom set. */
export function BakeSettings({ frames }: { readonly frames: number | undefined }): ReactElement {
  const { desk, debounced, shown } = useSession();
  const draft = useStore(desk.draft);
  const program = useStore(debounced, (s) => s.look.program);
  const variant = useStore(shown, (s) => s.variant);
  const [more, setMore] = useState(false);
  const set = (change: Partial<BakeDraft>): void => {
    desk.draft.setState(change);
  };
  const puts = CHANNELS.filter((c) => program.steps.some((s) => s.kind === 'out' && !s.off && s.name === c));
  const { product, taking, channels, outputs } = draft;
  const sheet = product === 'sheet';
  const video = product === 'webm';
  const count = program.loop.frames;
  const sides = [16, 4096] as const;
  return (
    <Box sx={{ display: 'grid', gap: 0.25 }}>
      <Line name="Frame">
        <Box sx={row}>
          <Whole
            label="Width of a frame in pixels"
            value={draft.width}
            step={16}
            min={1}
            max={8192}
            set={(width) => {
              set({ width });
            }}
          />
          x
          <Whole
            label="Height of a frame in pixels"
            value={draft.height}
            step={16}
            min={1}
            max={8192}
            set={(height) => {
              set({ height });
            }}
          />
          {([0.5, 2] as const).map((by) => {
            const [width, height] = [Math.round(draft.width * by), Math.round(draft.height * by)];
            return (
              <Button
                key={by}
                sx={{ minWidth: 28, px: 0.75 }}
                aria-label={by < 1 ? 'Half the size' : 'Twice the size'}
                disabled={Math.min(width, height) < sides[0] || Math.max(width, height) > sides[1]}
                onClick={() => {
                  set({ width, height });
                }}
              >
                {by < 1 ? '1/2' : '2x'}
              </Button>
            );
          })}
        </Box>
      </Line>
      <Line name="Frames">
        <Box sx={row}>
          <Choice<Taking>
            label="Which frames"
            value={taking}
            options={[
              ['count', 'evenly'],
              ['every', 'every k-th'],
              ['range', 'from, to'],
              ['all', `all ${String(count)}`],
            ]}
            choose={(next) => {
              set({ taking: next, ...(next === 'range' && draft.last === 0 ? { last: count - 1 } : {}) });
            }}
          />
          {taking === 'count' && (
            <Whole
              label="How many frames"
              value={draft.count}
              min={1}
              max={4096}
              set={(count) => {
                set({ count });
              }}
            />
          )}
          {taking === 'every' && (
            <Whole
              label="Every k-th frame"
              value={draft.every}
              min={1}
              max={count}
              set={(every) => {
                set({ every });
              }}
            />
          )}
          {taking === 'range' && (
            <>
              <Whole
                label="First frame"
                value={draft.first}
                min={0}
                max={count - 1}
                width={52}
                set={(first) => {
                  set({ first });
                }}
              />
              <Whole
                label="Last frame"
                value={draft.last}
                min={0}
                max={count - 1}
                width={52}
                set={(last) => {
                  set({ last });
                }}
              />
            </>
          )}
        </Box>
      </Line>
      {sheet && (
        <Line name="Columns">
          <Box sx={row}>
            <Whole
              label="Columns of the sheet"
              value={draft.columns ?? columnsFor(frames ?? 1)}
              min={1}
              max={4096}
              set={(columns) => {
                set({ columns });
              }}
            />
            {draft.columns !== undefined && (
              <Button
                onClick={() => {
                  set({ columns: undefined });
                }}
              >
                automatic
              </Button>
            )}
          </Box>
        </Line>
      )}
      <Line name="Channels">
        <Choice
          label="Channels"
          value={video || channels === 'outputs' ? outputs.join(',') : 'pack'}
          options={[
            ...puts.map((c): [string, string] => [c, c]),
            ...(video || puts.length < 2 ? [] : [[puts.join(','), 'each output separately'] as [string, string]]),
            ...(video ? [] : [['pack', 'packed'] as [string, string]]),
            ...(puts.join(',') === outputs.join(',') || puts.includes(outputs.join(',') as Channel)
              ? []
              : [[outputs.join(','), outputs.join(', ')] as [string, string]]),
          ]}
          choose={(next) => {
            if (next === 'pack') set({ channels: 'pack' });
            else set({ channels: 'outputs', outputs: next.split(',') as Channel[] });
          }}
        />
      </Line>
      {!video && channels === 'pack' && (
        <Line name="">
          <TextField
            value={draft.pack}
            onChange={(event) => {
              set({ pack: event.target.value });
            }}
            placeholder="r=color.r g=opacity b=roughness"
            slotProps={{
              htmlInput: {
                'aria-label': 'Content of each channel',
                title: 'r, g, b, a: an output and its part, or a number; orm is occlusion, roughness, metallic',
                spellCheck: false,
              },
            }}
            sx={{ '& input': { fontFamily: faces.figures, fontSize: 12, px: 0.75 } }}
          />
        </Line>
      )}
      <Line name="Variant">
        <Box sx={{ color: 'text.secondary' }} title="Current settings of the Stage">
          {variant ?? 'Base'}, shown on the Stage
        </Box>
      </Line>
      <Button
        aria-expanded={more}
        sx={{ justifySelf: 'start', ml: -0.75 }}
        onClick={() => {
          setMore(!more);
        }}
      >
        {more ? 'Fewer settings' : 'More settings'}
      </Button>
      {more && <MoreSettings draft={draft} set={set} />}
    </Box>
  );
}

/** A whole number. */
function Whole({ set, step = 1, ...rest }: ComponentProps<typeof NumberField>): ReactElement {
  return (
    <NumberField
      {...rest}
      step={step}
      set={(value) => {
        set(Math.round(value));
      }}
    />
  );
}

function MoreSettings({
  draft,
  set,
}: {
  readonly draft: BakeDraft;
  readonly set: (change: Partial<BakeDraft>) => void;
}): ReactElement {
  const sheet = draft.product === 'sheet';
  const video = draft.product === 'webm';
  const tick = (
    label: string,
    title: string,
    of: 'spread' | 'premultiply' | 'powerOfTwo' | 'linear',
    disabled = false,
  ): ReactElement => (
    <FormControlLabel
      label={label}
      title={title}
      disabled={disabled}
      sx={{ m: 0, minHeight: 26 }}
      control={
        <Checkbox
          size="small"
          checked={draft[of] && !disabled}
          onChange={(_, on) => {
            set({ [of]: on });
          }}
          sx={{ p: 0.5, ml: -0.5 }}
        />
      }
    />
  );
  return (
    <>
      <Line name="Samples">
        <Box sx={row}>
          <Whole
            label="Samples per pixel side"
            value={draft.samples}
            min={1}
            max={8}
            set={(samples) => {
              set({ samples });
            }}
          />
          <Box sx={{ color: 'text.secondary' }}>squared a pixel</Box>
        </Box>
      </Line>
      {!video && (
        <Line name="Bits">
          <Choice
            label="Bits a channel"
            value={String(draft.bits) as '8' | '16'}
            options={[
              ['8', '8 a channel'],
              ['16', '16 a channel'],
            ]}
            choose={(bits) => {
              set({ bits: bits === '16' ? 16 : 8 });
            }}
          />
        </Line>
      )}
      <Line name="Normals">
        <Choice
          label="Green channel of normals"
          value={draft.normalY}
          options={[
            ['up', 'y up'],
            ['down', 'y down'],
          ]}
          choose={(normalY) => {
            set({ normalY });
          }}
        />
      </Line>
      {sheet && (
        <Line name="Bleed">
          <Box sx={row}>
            <Whole
              label="Bleed in pixels"
              value={draft.bleed}
              min={0}
              max={64}
              set={(bleed) => {
                set({ bleed });
              }}
            />
            <Box sx={{ color: 'text.secondary' }}>px around each frame</Box>
          </Box>
        </Line>
      )}
      <Box sx={{ display: 'grid' }}>
        {sheet && tick('Power-of-two size', 'Padding right and below is transparent', 'powerOfTwo')}
        {!video &&
          tick(
            'Spread colour under transparent pixels',
            'Avoids dark edges when the texture is filtered',
            'spread',
            draft.premultiply,
          )}
        {!video && tick('Premultiplied', 'Colours are multiplied by alpha', 'premultiply', draft.spread)}
        {!video && tick('Linear colours', 'Stored without the sRGB curve', 'linear')}
      </Box>
    </>
  );
}
