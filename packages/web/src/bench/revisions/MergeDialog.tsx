import { Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import { api, sentence, type Material } from '../../api/client.ts';
import { Notice } from '../../app/Page.tsx';
import { useSession } from '../session.ts';
import { TextMerge } from './TextMerge.tsx';

/** After a save elsewhere: both texts side by side; the right one, ours, takes pieces of theirs and is saved over it. */
export function MergeDialog({ close }: { readonly close: () => void }): ReactElement {
  const { material, document, saver } = useSession();
  const [theirs, setTheirs] = useState<Material>();
  const [failure, setFailure] = useState('');
  const [mine, setMine] = useState(document.getState().text);
  const [start] = useState(mine);
  useEffect(() => {
    api.material(material.id).then(setTheirs, (error: unknown) => {
      setFailure(sentence(error));
    });
  }, [material.id]);
  return (
    <Dialog
      open
      onClose={close}
      maxWidth={false}
      aria-labelledby="merge-title"
      slotProps={{ paper: { sx: { width: 1120, height: 700, maxWidth: 'calc(100% - 32px)', maxHeight: 'calc(100% - 32px)' } } }}
    >
      <DialogTitle id="merge-title">Two texts of one material</DialogTitle>
      <DialogContent sx={{ display: 'flex', flexDirection: 'column', gap: 1, minHeight: 0 }}>
        <Typography>The left one was saved elsewhere. The arrows bring a piece of it into yours; yours can be edited here too.</Typography>
        {failure !== '' && <Notice alert title="The other text cannot be read" detail={failure} />}
        {!theirs && failure === '' && <Notice busy title="Reading the other text" />}
        {theirs && <TextMerge left={theirs.text} right={start} labels={[`Saved elsewhere, revision ${String(theirs.revision)}`, 'Yours']} changed={setMine} />}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!theirs}
          onClick={() => {
            document.edit([{ from: 0, to: document.getState().text.length, insert: mine }]);
            void saver.saveOver(theirs?.revision);
            close();
          }}
        >
          Save the merged text
        </Button>
      </DialogActions>
    </Dialog>
  );
}
