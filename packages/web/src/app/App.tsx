import { Box } from '@mui/material';
import { lazy, Suspense, type ReactElement } from 'react';
import { BrowserRouter, Route, Routes } from 'react-router';
import { ErrorBoundary } from '../ui/ErrorBoundary.tsx';
import { NotFoundPage, Notice } from '../ui/Page.tsx';

const ShelfPage = lazy(async () => ({ default: (await import('../shelf/ShelfPage.tsx')).ShelfPage }));
const BenchPage = lazy(async () => ({ default: (await import('../bench/BenchPage.tsx')).BenchPage }));
const ExportPage = lazy(async () => ({ default: (await import('../export/ExportPage.tsx')).ExportPage }));
const SourcesPage = lazy(async () => ({ default: (await import('../sources/SourcesPage.tsx')).SourcesPage }));
const FitPage = lazy(async () => ({ default: (await import('../fit/FitPage.tsx')).FitPage }));
const BakesPage = lazy(async () => ({ default: (await import('../bakes/BakesPage.tsx')).BakesPage }));
const SetsPage = lazy(async () => ({ default: (await import('../sets/SetsPage.tsx')).SetsPage }));
const SetPage = lazy(async () => ({ default: (await import('../sets/SetPage.tsx')).SetPage }));
const SourcePage = lazy(async () => ({ default: (await import('../sources/SourcePage.tsx')).SourcePage }));

/** The views and their addresses. */
export function App(): ReactElement {
  return (
    <BrowserRouter>
      <Box sx={{ height: '100%', display: 'flex', flexDirection: 'column', overflow: 'auto' }}>
        <ErrorBoundary part="view">
          <Suspense fallback={<Notice busy title="Opening" />}>
            <Routes>
              <Route path="/" element={<ShelfPage />} />
              <Route path="/materials/:materialId" element={<BenchPage />} />
              <Route path="/materials/:materialId/export" element={<ExportPage />} />
              <Route path="/projects/:projectId/sources" element={<SourcesPage />} />
              <Route path="/projects/:projectId/sources/:sourceId" element={<SourcePage />} />
              <Route path="/projects/:projectId/meshes/:meshId" element={<FitPage />} />
              <Route path="/projects/:projectId/bakes" element={<BakesPage />} />
              <Route path="/projects/:projectId/sets" element={<SetsPage />} />
              <Route path="/projects/:projectId/sets/:setId" element={<SetPage />} />
              <Route path="*" element={<NotFoundPage />} />
            </Routes>
          </Suspense>
        </ErrorBoundary>
      </Box>
    </BrowserRouter>
  );
}
