import { Box, Button, Typography } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import { useNavigate } from 'react-router';
import { api, sentence, type Project } from '../api/client.ts';
import { dropDraft, typedAt, type Draft } from '../history/drafts.ts';
import { TopBar } from '../ui/Page.tsx';
import { faces, tokens } from '../ui/tokens.ts';

/** In place of a deleted material: text of it that was never saved, and ways to keep it. */
export function LeftDrafts({
  drafts,
  again,
}: {
  readonly drafts: readonly Draft[];
  readonly again: () => void;
}): ReactElement {
  const [left, setLeft] = useState(drafts);
  const [projects, setProjects] = useState<readonly Project[]>([]);
  const [problem, setProblem] = useState('');
  const navigate = useNavigate();
  useEffect(() => {
    api.projects().then(setProjects, (error: unknown) => {
      setProblem(sentence(error));
    });
  }, []);
  const attempt = (act: () => Promise<void>) => (): void => {
    setProblem('');
    act().catch((error: unknown) => {
      setProblem(sentence(error));
    });
  };
  const [newest] = left;
  return (
    <>
      <TopBar>
        <Typography component="h1" sx={{ fontWeight: 500, fontSize: 14 }}>
          {newest?.title === '' || !newest ? 'A deleted material' : `${newest.title}, deleted`}
        </Typography>
      </TopBar>
      <Box component="main" sx={{ flex: 1, minHeight: 0, overflow: 'auto', p: 3 }}>
        <Box sx={{ maxWidth: 860, mx: 'auto', display: 'flex', flexDirection: 'column', gap: 2 }}>
          <Typography>This material was deleted. Its unsaved text is kept in this browser.</Typography>
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button
              variant="contained"
              disabled={!newest}
              onClick={attempt(async () => {
                await api.restoreMaterial(newest!.material);
                again();
              })}
            >
              Restore the material with this text
            </Button>
          </Box>
          {problem !== '' && (
            <Typography role="alert" sx={{ color: tokens.coral }}>
              {problem}
            </Typography>
          )}
          {left.map((draft) => {
            const home = projects.find((p) => p.id === draft.project) ?? projects[0];
            return (
              <Box
                key={draft.key}
                component="section"
                aria-label={`Typed ${typedAt(draft)}`}
                sx={{ border: 1, borderColor: 'divider' }}
              >
                <Box
                  sx={{
                    display: 'flex',
                    alignItems: 'center',
                    gap: 1,
                    px: 1.5,
                    py: 0.5,
                    borderBottom: 1,
                    borderColor: 'divider',
                  }}
                >
                  <Typography sx={{ color: 'text.secondary', mr: 'auto' }}>Typed {typedAt(draft)}</Typography>
                  {home && (
                    <Button
                      onClick={attempt(async () => {
                        const { id } = await api.createMaterial(home.id, draft.text);
                        dropDraft(draft);
                        await navigate(`/materials/${id}`);
                      })}
                    >
                      Save as a new material in {home.name}
                    </Button>
                  )}
                  <Button
                    onClick={() => {
                      dropDraft(draft);
                      setLeft(left.filter((d) => d !== draft));
                    }}
                  >
                    Discard
                  </Button>
                </Box>
                <Box
                  component="pre"
                  tabIndex={0}
                  sx={{ m: 0, p: 1.5, maxHeight: 320, overflow: 'auto', fontFamily: faces.figures, fontSize: 12.5 }}
                >
                  {draft.text}
                </Box>
              </Box>
            );
          })}
          {left.length === 0 && <Typography>Nothing left.</Typography>}
        </Box>
      </Box>
    </>
  );
}
