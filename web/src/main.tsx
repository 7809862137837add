import '@fontsource-variable/ibm-plex-sans/index.css';
import '@fontsource-variable/source-serif-4/index.css';
import './theme/tokens.css';
// all styles at once, in this order, though screens are loaded when they are opened: some share what they look like
import './parts/list.css';
import './parts/conflict.css';
import './groupings/groupings.css';
import './groupings/loose.css';
import './report/list/list.css';
import './report/report.css';
import './editors/editors.css';
import './sheet/sheet.css';
import './chart/chart.css';
import './report/handing/handing.css';
import './margin/trail.css';
import './sources/sources.css';
import './intake/strip.css';
import './board/board.css';
import './editions/editions.css';
import './history/history.css';
import './access/access.css';
import './reference/reference.css';

import createCache from '@emotion/cache';
import { CacheProvider } from '@emotion/react';
import { ThemeProvider } from '@mui/material';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter } from 'react-router';

import { App } from './app/App';
import { theme } from './theme/theme';

const queries = new QueryClient({ defaultOptions: { queries: { refetchOnWindowFocus: false, retry: 1 } } });

// the page's policy allows no style but its own: those that components make bear the nonce that came with the document
const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? '';
const styles = createCache({ key: 'css', ...(nonce ? { nonce } : {}) });

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
