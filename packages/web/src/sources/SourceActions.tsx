import { Button } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { useNavigate } from 'react-router';
import { addressOf, type Source } from '../api/client.ts';
import { ConfirmDialog, NameDialog } from '../ui/dialogs.tsx';
import { renameSource } from '../project/rename.ts';
import type { ProjectSources } from '../project/use-project.ts';

/** What can be done with any source, whatever made it: download, rename and delete, with the dialogs that ask. */
export function SourceActions({
  source,
  shown,
  losing,
}: {
  readonly source: Source;
  readonly shown: ProjectSources;
  /** What is said before it is deleted. */
  readonly losing: string;
}): ReactElement {
  const [ask, setAsk] = useState<'rename' | 'delete'>();
  const navigate = useNavigate();
  const close = (): void => {
    setAsk(undefined);
  };
  return (
    <>
      <Button component="a" href={addressOf(source)} download={source.name}>
        Download
      </Button>
      <Button
        onClick={() => {
          setAsk('rename');
        }}
      >
        Rename
      </Button>
      <Button
        onClick={() => {
          setAsk('delete');
        }}
      >
        Delete
      </Button>
      {ask === 'rename' && (
        <NameDialog
          title="Rename the source"
          verb="Rename"
          label="Name"
          start={source.name}
          close={close}
          act={async (name) => {
            await renameSource(shown.store, source, name);
            shown.reload();
          }}
        />
      )}
      {ask === 'delete' && (
        <ConfirmDialog
          title={`Delete ${source.name}?`}
          verb="Delete source"
          detail={losing}
          close={close}
          act={async () => {
            await shown.store.remove(source);
            void navigate(`/projects/${source.projectId}/sources`);
          }}
        />
      )}
    </>
  );
}
