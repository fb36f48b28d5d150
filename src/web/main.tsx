import '@fontsource-variable/schibsted-grotesk';
import '@fontsource-variable/red-hat-mono';
import { createRoot } from 'react-dom/client';
import { BrowserRouter } from 'react-router';
import { App } from './app.tsx';
import { GlobalStyle } from './theme.ts';

createRoot(document.getElementById('root')!).render(
  <BrowserRouter>
    <GlobalStyle />
    <App />
  </BrowserRouter>,
);
