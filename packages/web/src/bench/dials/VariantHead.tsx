import { removeVariant, renameVariant, type Program } from '@estela/core';
import { Box, Button, IconButton, Menu, MenuItem } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { MoreIcon, WarningIcon } from '../../ui/icons.tsx';
import { tokens } from '../../ui/tokens.ts';
import { NameDialog } from '../../ui/dialogs.tsx';
import { useSession } from '../session.ts';

/** A title that no variant has yet. */
export function freeTitle({ variants }: Program, wanted: string): string {
  for (let i = 1; ; i++) {
    const title = `${wanted} ${String(i)}`;
    if (!variants.some((v) => v.name === title)) return title;
  }
}

/** The head of a column: shows its values on the Stage, and what can be done with it. The base has no title. */
export function VariantHead({
  program,
  title,
  trouble,
}: {
  readonly program: Program;
  readonly title: string | undefined;
  /** That its loop does not close, or that it costs more than is wanted; in a word or two. */
  readonly trouble: string | undefined;
}): ReactElement {
  const { document, shown } = useSession();
  const onStage = useStore(shown, (s) => s.variant);
  const current = onStage === title;
  const beside = useStore(shown, (s) => s.beside);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [renaming, setRenaming] = useState(false);
  const errors = program.diagnostics.filter((d) => d.severity === 'error');
  const span = program.variants.find((v) => v.name === title)?.span;
  const broken = span ? errors.filter((d) => d.from >= span.from && d.to <= span.to) : [];
  const name = title ?? 'Base';
  const close = (): void => {
    setMenu(null);
  };
  const compared = beside?.kind === 'variant' && beside.name === title;
  // What is on the Stage is compared with the base, all others with what is on the Stage.
  const partner = current ? undefined : title;
  const isShownBase = current && title === undefined;
  const isPartner = beside?.kind === 'variant' && beside.name === partner;
  return (
    <Box
      sx={{ display: 'flex', alignItems: 'center', minWidth: 0, scrollSnapAlign: title === undefined ? 'none' : 'end' }}
    >
      <Button
        aria-pressed={current}
        title={
          broken.length > 0
            ? broken.map((d) => d.message).join(' ')
            : trouble
              ? `${name}: ${trouble}`
              : `Show ${name} on the Stage`
        }
        onClick={() => {
          // The one it is compared with changes sides, so that none is compared with itself.
          shown.setState({ variant: title, ...(compared && { beside: { kind: 'variant', name: onStage } }) });
        }}
        sx={{
          minWidth: 0,
          px: 0.75,
          minHeight: 24,
          color: broken.length > 0 || trouble ? tokens.coral : current ? 'text.primary' : 'text.secondary',
          bgcolor: current ? tokens.raise : 'transparent',
          '& span': { overflow: 'hidden', textOverflow: 'ellipsis' },
        }}
      >
        <span>{name}</span>
        {trouble && (
          <Box component="span" role="img" aria-label={trouble} sx={{ ml: 0.5, flex: 'none', display: 'flex' }}>
            <WarningIcon />
          </Box>
        )}
      </Button>
      <IconButton
        aria-label={`More for ${name}`}
        aria-haspopup="menu"
        onClick={(event) => {
          setMenu(event.currentTarget);
        }}
        sx={{ width: 24, height: 24 }}
      >
        <MoreIcon />
      </IconButton>
      <Menu anchorEl={menu} open={menu !== null} onClose={close}>
        <MenuItem
          disabled={isShownBase}
          onClick={() => {
            close();
            shown.setState({ beside: isPartner ? undefined : { kind: 'variant', name: partner } });
          }}
        >
          {isShownBase
            ? 'Shown on the Stage'
            : isPartner
              ? 'Stop comparing'
              : `Compare with ${(current ? undefined : onStage) ?? 'Base'}`}
        </MenuItem>
        {title !== undefined && (
          <MenuItem
            onClick={() => {
              close();
              setRenaming(true);
            }}
          >
            Rename
          </MenuItem>
        )}
        {title !== undefined && (
          <MenuItem
            onClick={() => {
              close();
              document.edit(removeVariant(document.getState().derived.program.tree, title));
            }}
          >
            Delete
          </MenuItem>
        )}
      </Menu>
      {renaming && title !== undefined && (
        <NameDialog
          title="Rename the variant"
          verb="Rename"
          label="Title"
          start={title}
          close={() => {
            setRenaming(false);
          }}
          act={(next) => {
            if (next !== title && program.variants.some((v) => v.name === next))
              return Promise.reject(new Error(`There is already a variant "${next}".`));
            document.edit(renameVariant(document.getState().derived.program.tree, title, next));
            if (current) shown.setState({ variant: next });
            return Promise.resolve();
          }}
        />
      )}
    </Box>
  );
}
