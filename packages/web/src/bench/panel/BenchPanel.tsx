import { countsOf } from '@estela/core';
import { Box, Tab, Tabs, useMediaQuery } from '@mui/material';
import { styled } from '@mui/material/styles';
import { lazy, Suspense, type ReactElement, type ReactNode } from 'react';
import { useStore } from 'zustand';
import { ErrorBoundary } from '../../ui/ErrorBoundary.tsx';
import { Notice } from '../../ui/Page.tsx';
import { faces, tokens } from '../../ui/tokens.ts';
import { useFindings } from '../checks/use-findings.ts';
import { useSelectedIndex } from '../selection.ts';
import { TABS, useSession, type PanelTab } from '../session.ts';

const Dials = lazy(async () => ({ default: (await import('../dials/Dials.tsx')).Dials }));
const DialActions = lazy(async () => ({ default: (await import('../dials/DialActions.tsx')).DialActions }));
const RampPanel = lazy(async () => ({ default: (await import('./RampPanel.tsx')).RampPanel }));
const StepCard = lazy(async () => ({ default: (await import('../card/StepCard.tsx')).StepCard }));
const SourcesTab = lazy(async () => ({ default: (await import('../textures/SourcesTab.tsx')).SourcesTab }));
const Probe = lazy(async () => ({ default: (await import('../probe/Probe.tsx')).Probe }));
const Checks = lazy(async () => ({ default: (await import('../checks/Checks.tsx')).Checks }));
const BakePanel = lazy(async () => ({ default: (await import('../bake/BakePanel.tsx')).BakePanel }));
const DissolvePanel = lazy(async () => ({ default: (await import('./DissolvePanel.tsx')).DissolvePanel }));

/** Windows this wide show the Dials beside the other tab. */
const WIDE = '(min-width: 1700px)';

type Kind = PanelTab['kind'];
const LABELS: Record<Kind, string> = {
  dials: 'Dials',
  step: 'Step',
  sources: 'Sources',
  checks: 'Checks',
  probe: 'Probe',
  bake: 'Bake',
  ramp: 'Ramp',
  dissolve: 'Dissolve',
};

const Bar = styled(Tabs)({
  flex: 1,
  minWidth: 0,
  minHeight: 34,
  '& .MuiTabs-indicator': { display: 'none' },
  '& .MuiTabs-list': { height: 34, alignItems: 'center', gap: 4, paddingLeft: 4 },
});
const PanelTabButton = styled(Tab)({
  minHeight: 28,
  minWidth: 0,
  padding: '3px 10px',
  borderRadius: 3,
  textTransform: 'none',
  fontSize: 13,
  whiteSpace: 'nowrap',
  color: tokens.dim,
  '&.Mui-selected': { color: tokens.text, backgroundColor: tokens.raise },
});

/** What a tab is called now: the selected step, how many sources, how much was found. */
function useTabWords(): Record<Kind, { readonly name: string; readonly label: ReactNode }> {
  const { debounced, sources, panel } = useSession();
  const program = useStore(debounced, (s) => s.derived.program);
  const open = useStore(panel, (s) => s.open);
  const step = program.steps[useSelectedIndex() ?? -1];
  const count = useStore(sources, (s) => s.sources.length);
  const { grave, notes } = countsOf(useFindings().findings);
  const plain = (name: string): { name: string; label: ReactNode } => ({ name, label: name });
  const figure = (n: number, ink: string): ReactElement => (
    <Box component="span" sx={{ color: ink, fontFamily: faces.figures, fontSize: 12, ml: 0.75 }}>
      {n}
    </Box>
  );
  return {
    dials: plain(LABELS.dials),
    step: plain(step ? `Step: ${step.kind === 'out' ? `out ${step.name}` : step.name}` : LABELS.step),
    sources: { name: `Sources ${String(count)}`, label: <span>Sources{figure(count, tokens.dim)}</span> },
    checks: {
      name: `Checks: ${String(grave)} to look at, ${String(notes)} ${notes === 1 ? 'note' : 'notes'}`,
      label: (
        <span>
          Checks
          {grave > 0 ? figure(grave, tokens.coral) : notes > 0 ? figure(notes, tokens.dim) : null}
        </span>
      ),
    },
    probe: plain(LABELS.probe),
    bake: plain(LABELS.bake),
    ramp: plain(open.kind === 'ramp' ? `Ramp ${open.name}` : LABELS.ramp),
    dissolve: plain(LABELS.dissolve),
  };
}

/** What a tab shows. */
function TabContent({ tab }: { readonly tab: PanelTab }): ReactElement {
  switch (tab.kind) {
    case 'dials':
      return <Dials />;
    case 'step':
      return <StepCard />;
    case 'sources':
      return <SourcesTab />;
    case 'checks':
      return <Checks />;
    case 'probe':
      return <Probe />;
    case 'bake':
      return <BakePanel />;
    case 'ramp':
      return <RampPanel key={tab.name} name={tab.name} />;
    case 'dissolve':
      return <DissolvePanel key={tab.index} index={tab.index} />;
  }
}

/** One column of the panel: a bar above what is open. */
function Column({
  tab,
  bar,
  label,
}: {
  readonly tab: PanelTab;
  readonly bar: ReactNode;
  readonly label: string;
}): ReactElement {
  return (
    <Box
      sx={{
        flex: tab.kind === 'dials' ? 1.25 : 1,
        minWidth: 0,
        minHeight: 0,
        display: 'flex',
        flexDirection: 'column',
      }}
    >
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          flex: 'none',
          height: 35,
          pr: 0.5,
          borderBottom: 1,
          borderColor: 'divider',
        }}
      >
        {bar}
        {tab.kind === 'dials' && (
          <Suspense>
            <DialActions />
          </Suspense>
        )}
      </Box>
      <Box
        role="tabpanel"
        id={`panel-${tab.kind}`}
        aria-label={label}
        // Columns of the Dials come to stand whole.
        sx={{ flex: 1, minHeight: 0, overflow: 'auto', position: 'relative', scrollSnapType: 'x proximity' }}
      >
        <ErrorBoundary part="panel">
          <Suspense fallback={<Notice busy title="Opening" />}>
            <TabContent tab={tab} />
          </Suspense>
        </ErrorBoundary>
      </Box>
    </Box>
  );
}

/** Under the Stage: dials, the selected step, sources, checks and probe, one at a time; wide windows show two. */
export function BenchPanel(): ReactElement {
  const { panel } = useSession();
  const open = useStore(panel, (s) => s.open);
  const wide = useMediaQuery(WIDE, { noSsr: true });
  const words = useTabWords();
  const kinds: readonly Kind[] = [
    ...TABS.filter((kind) => !wide || kind !== 'dials'),
    // What is opened from a line of the text has a tab for as long as it is open.
    ...(open.kind === 'ramp' || open.kind === 'dissolve' ? [open.kind] : []),
  ];
  const shown: PanelTab = wide && open.kind === 'dials' ? { kind: 'step' } : open;
  const tabs = (
    <Bar
      value={shown.kind}
      variant="scrollable"
      scrollButtons={false}
      aria-label="Panel"
      onChange={(_, kind: Kind) => {
        const found = TABS.find((k) => k === kind);
        if (found) panel.setState({ open: { kind: found } });
      }}
    >
      {kinds.map((kind) => (
        <PanelTabButton
          key={kind}
          value={kind}
          label={words[kind].label}
          aria-label={words[kind].name}
          aria-controls={kind === shown.kind ? `panel-${kind}` : undefined}
          disableRipple
        />
      ))}
    </Bar>
  );
  const label = (tab: PanelTab): string => (tab.kind === 'ramp' ? `Ramp ${tab.name}` : LABELS[tab.kind]);
  return (
    <Box component="section" aria-label="Panel" sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
      {wide && (
        <>
          <Column
            tab={{ kind: 'dials' }}
            label="Dials"
            bar={
              <Box component="h2" sx={{ flex: 1, m: 0, pl: 1.5, fontSize: 13, fontWeight: 500 }}>
                Dials
              </Box>
            }
          />
          <Box sx={{ width: '1px', flex: 'none', bgcolor: 'divider' }} />
        </>
      )}
      <Column tab={shown} label={label(shown)} bar={tabs} />
    </Box>
  );
}
