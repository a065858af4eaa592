import { styled } from '@mui/material/styles';
import type { ReactElement, ReactNode } from 'react';
import { Group, Panel, Separator, useDefaultLayout } from 'react-resizable-panels';
import { memory } from './memory.ts';
import { tokens } from './tokens.ts';

const Bar = styled(Separator)({
  flex: 'none',
  backgroundColor: tokens.line,
  position: 'relative',
  '&[aria-orientation=vertical]': {
    width: 1,
    cursor: 'ew-resize',
    '&::after': { content: '""', position: 'absolute', inset: '0 -4px' },
  },
  '&[aria-orientation=horizontal]': {
    height: 1,
    cursor: 'ns-resize',
    '&::after': { content: '""', position: 'absolute', inset: '-4px 0' },
  },
  '&:hover, &:focus-visible, &[data-separator=active]': {
    backgroundColor: tokens.bone,
    outline: `1px solid ${tokens.bone}`,
  },
});

/**
 * Two parts with a bar between them that can be dragged, or moved with the arrow keys; where it stands is kept in this
 * browser.
 */
export function Split({
  id,
  label,
  orientation,
  first,
  second,
  start,
  least,
}: {
  readonly id: string;
  readonly label: string;
  readonly orientation: 'horizontal' | 'vertical';
  readonly first: ReactNode;
  readonly second: ReactNode;
  /** Share of the first part at first, such as '43%'. */
  readonly start: string;
  /** Least sizes of the parts, in pixels. */
  readonly least: readonly [number, number];
}): ReactElement {
  const layout = useDefaultLayout({ id: `estela.${id}`, storage: memory });
  const inner = { display: 'flex', flexDirection: 'column', overflow: 'hidden', minWidth: 0, minHeight: 0 } as const;
  return (
    <Group
      orientation={orientation}
      defaultLayout={layout.defaultLayout}
      onLayoutChanged={layout.onLayoutChanged}
      style={{ flex: 1, minHeight: 0 }}
    >
      <Panel id={`${id}-first`} defaultSize={start} minSize={least[0]} style={inner}>
        {first}
      </Panel>
      <Bar aria-label={label} />
      <Panel id={`${id}-second`} minSize={least[1]} style={inner}>
        {second}
      </Panel>
    </Group>
  );
}
