import '@fontsource-variable/ibm-plex-sans/index.css';
import '@fontsource-variable/source-serif-4/index.css';
import './theme/tokens.css';

import { CacheProvider } from '@emotion/react';
import { ThemeProvider } from '@mui/material';
import { notifyManager, QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter } from 'react-router';

import { App } from './app/App';
import { layeredStyles } from './theme/styles';
import { theme } from './theme/theme';

const queries = new QueryClient({ defaultOptions: { queries: { refetchOnWindowFocus: false, retry: 1 } } });

notifyManager.setScheduler(queueMicrotask); // an answer is drawn once, with all that came of it
const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? '';
const styles = layeredStyles(nonce);

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <CacheProvider value={styles}>
      <ThemeProvider theme={theme}>
        <QueryClientProvider client={queries}>
          <BrowserRouter>
            <App />
          </BrowserRouter>
        </QueryClientProvider>
      </ThemeProvider>
    </CacheProvider>
  </StrictMode>,
);
