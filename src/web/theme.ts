import { createGlobalStyle } from 'styled-components';

/** Paper, ink and one accent. The surround of pictures is pure grey, so that colours can be judged. */
export const theme = {
  paper: '#F7F6F2',
  sheet: '#FFFFFF',
  sunk: '#EEECE6',
  rule: '#D8D4CA',
  ruleStrong: '#8B877D',
  ink: '#1D1E1C',
  quiet: '#5C5B55',
  accent: '#0B6E69',
  accentDark: '#07514D',
  accentTint: '#E1EEEC',
  amber: '#9A5B00',
  amberTint: '#FBF0DC',
  bad: '#A4262C',
  text: "'Schibsted Grotesk Variable', system-ui, sans-serif",
  figures: "'Red Hat Mono Variable', ui-monospace, monospace",
} as const;

export const SURROUNDS = { light: '#C8C8C8', mid: '#808080', dark: '#3A3A3A' } as const;
export type Surround = keyof typeof SURROUNDS;

export const GlobalStyle = createGlobalStyle`
  *, *::before, *::after { box-sizing: border-box; }
  html, body, #root { height: 100%; margin: 0; }
  html { accent-color: ${theme.accent}; }
  body {
    background: ${theme.paper}; color: ${theme.ink};
    font: 400 14px/1.4 ${theme.text};
    -webkit-font-smoothing: antialiased;
  }
  button, input, select, textarea { font: inherit; color: inherit; }
  h1, h2, h3, p { margin: 0; font-weight: 600; }
  p { font-weight: 400; }
  h1 { font-size: 22px; line-height: 1.25; letter-spacing: -0.01em; }
  h2 { font-size: 15px; }
  h3 { font-size: 13px; }
  a { color: ${theme.accent}; }
  :focus-visible { outline: 2px solid ${theme.accent}; outline-offset: 2px; }
  .mono { font-family: ${theme.figures}; font-size: 12.5px; }
  .quiet { color: ${theme.quiet}; }
  .visually-hidden { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); white-space: nowrap; }
`;
