import { Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import { api, sentence } from '../../api/client.ts';
import { typedAt, type Draft } from '../../history/drafts.ts';
import { Notice } from '../../ui/Page.tsx';
import { useSession } from '../session.ts';
import { TextMerge } from './TextMerge.tsx';

interface Theirs {
  readonly text: string;
  readonly label: string;
  /** Of what is stored. */
  readonly revision?: number;
}

/** The text to merge with, or why it cannot be had: a draft of another tab, or what was saved elsewhere. */
function useTheirs(draft: Draft | undefined): { readonly theirs: Theirs | undefined; readonly failure: string } {
  const { material } = useSession();
  const [found, setFound] = useState<Theirs>();
  const [failure, setFailure] = useState('');
  useEffect(() => {
    if (draft) return;
    api.material(material.id).then(
      ({ text, revision }) => {
        setFound({ text, revision, label: `Saved elsewhere, revision ${String(revision)}` });
      },
      (error: unknown) => {
        setFailure(sentence(error));
      },
    );
  }, [material.id, draft]);
  return { theirs: draft ? { text: draft.text, label: `Not saved, typed ${typedAt(draft)}` } : found, failure };
}

/**
 * Both texts side by side; the right one, ours, takes pieces of the other and is saved. The other is what was saved
 * elsewhere, or a draft.
 */
export function MergeDialog({
  draft,
  close,
  merged,
}: {
  readonly draft?: Draft;
  readonly close: () => void;
  readonly merged?: () => void;
}): ReactElement {
  const { document, saver } = useSession();
  const { theirs, failure } = useTheirs(draft);
  const [mine, setMine] = useState(document.getState().text);
  const [start] = useState(mine);
  return (
    <Dialog
      open
      onClose={close}
      maxWidth={false}
      aria-labelledby="merge-title"
      slotProps={{
        paper: { sx: { width: 1120, height: 700, maxWidth: 'calc(100% - 32px)', maxHeight: 'calc(100% - 32px)' } },
      }}
    >
      <DialogTitle id="merge-title">Two versions of one material</DialogTitle>
      <DialogContent sx={{ display: 'flex', flexDirection: 'column', gap: 1, minHeight: 0 }}>
        <Typography>
          The left version was {draft ? 'typed in another tab and never saved' : 'saved elsewhere'}. The arrows bring a
          piece of it into yours; yours can be edited here too.
        </Typography>
        {failure !== '' && <Notice alert title="The other version cannot be read" detail={failure} />}
        {!theirs && failure === '' && <Notice busy title="Reading the other version" />}
        {theirs && <TextMerge left={theirs.text} right={start} labels={[theirs.label, 'Yours']} changed={setMine} />}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!theirs}
          onClick={() => {
            document.edit([{ from: 0, to: document.getState().text.length, insert: mine }]);
            void (draft ? saver.flush() : saver.saveOver(theirs?.revision));
            merged?.();
            close();
          }}
        >
          Save the merged text
        </Button>
      </DialogActions>
    </Dialog>
  );
}
