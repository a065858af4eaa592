import '@fontsource/barlow-semi-condensed/latin-400.css';
import '@fontsource/barlow-semi-condensed/latin-500.css';
import '@fontsource/jetbrains-mono/latin-400.css';
import '@fontsource/jetbrains-mono/latin-500.css';
import { CssBaseline, ThemeProvider } from '@mui/material';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { App } from './App.tsx';
import { theme } from '../ui/theme.ts';

// A file that is dropped where nothing takes it would open in place of Estela.
for (const type of ['dragover', 'drop'] as const)
  window.addEventListener(type, (event) => {
    if (event.defaultPrevented || event.dataTransfer?.types.includes('Files') !== true) return;
    event.preventDefault();
    event.dataTransfer.dropEffect = 'none';
  });

const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <ThemeProvider theme={theme}>
        <CssBaseline />
        <App />
      </ThemeProvider>
    </StrictMode>,
  );
}
