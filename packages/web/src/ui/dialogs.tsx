import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField, Typography } from '@mui/material';
import { useState, type ReactElement, type SyntheticEvent } from 'react';
import { sentence } from '../api/client.ts';
import { tokens } from './tokens.ts';

interface Asked {
  readonly title: string;
  /** What the button that goes ahead says. */
  readonly verb: string;
  readonly close: () => void;
}

/** Runs an action and closes; where it is refused, says why and stays. */
function useAction(close: () => void): {
  busy: boolean;
  message: string;
  run: (action: () => Promise<unknown>) => void;
} {
  const [busy, setBusy] = useState(false);
  const [message, setMessage] = useState('');
  const run = (action: () => Promise<unknown>): void => {
    setBusy(true);
    action().then(close, (error: unknown) => {
      setMessage(sentence(error));
      setBusy(false);
    });
  };
  return { busy, message, run };
}

/** Asks for a name. */
export function NameDialog({
  title,
  verb,
  close,
  label,
  start,
  act,
}: Asked & {
  readonly label: string;
  readonly start: string;
  readonly act: (name: string) => Promise<unknown>;
}): ReactElement {
  const [name, setName] = useState(start);
  const { busy, message, run } = useAction(close);
  const submit = (event: SyntheticEvent): void => {
    event.preventDefault();
    if (name.trim() !== '') run(() => act(name.trim()));
  };
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs">
      <form onSubmit={submit}>
        <DialogTitle>{title}</DialogTitle>
        <DialogContent>
          <TextField
            autoFocus
            fullWidth
            margin="dense"
            label={label}
            value={name}
            error={message !== ''}
            helperText={message}
            slotProps={{ htmlInput: { maxLength: 120 } }}
            onChange={(event) => {
              setName(event.target.value);
            }}
            onFocus={(event) => {
              event.target.select();
            }}
          />
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={busy || name.trim() === ''}>
            {verb}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}

/** Asks before something goes. */
export function ConfirmDialog({
  title,
  verb,
  close,
  detail,
  act,
}: Asked & { readonly detail: string; readonly act: () => Promise<unknown> }): ReactElement {
  const { busy, message, run } = useAction(close);
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs">
      <DialogTitle>{title}</DialogTitle>
      <DialogContent>
        <Typography>{detail}</Typography>
        {message !== '' && (
          <Typography role="alert" sx={{ color: tokens.coral, mt: 1 }}>
            {message}
          </Typography>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close} autoFocus>
          Cancel
        </Button>
        <Button
          variant="contained"
          color="error"
          disabled={busy}
          onClick={() => {
            run(act);
          }}
        >
          {verb}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
