import type { ReactNode } from 'react';
import { NavLink } from 'react-router';
import styled from 'styled-components';
import { stageAt, STAGES, type Place, type Stage } from '../lib/stages.ts';
import { theme } from '../theme.ts';
import { TaskPlace } from './tasks.tsx';

const Bar = styled.header`
  display: flex;
  align-items: center;
  gap: 18px;
  height: 44px;
  padding: 0 14px;
  border-bottom: 1px solid ${theme.rule};
  background: ${theme.sheet};
  flex: none;
  .name {
    font-weight: 700;
    letter-spacing: -0.01em;
    font-size: 16px;
    color: ${theme.ink};
    text-decoration: none;
    display: flex;
    gap: 8px;
    align-items: center;
  }
  ol {
    display: flex;
    gap: 2px;
    list-style: none;
    margin: 0;
    padding: 0;
    align-self: stretch;
  }
  li {
    display: flex;
  }
  li a,
  li span {
    display: flex;
    align-items: center;
    padding: 0 12px;
    text-decoration: none;
    color: ${theme.ink};
    border-bottom: 3px solid transparent;
    border-top: 3px solid transparent;
  }
  li a:hover {
    background: ${theme.paper};
  }
  li a.active {
    border-bottom-color: ${theme.accent};
    font-weight: 600;
  }
  li span {
    color: #77756e;
  }
  .side {
    display: flex;
    gap: 8px;
    align-items: center;
    font-size: 13px;
    flex: none;
  }
  .title {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    max-width: 180px;
  }
  @media (max-width: 1150px) {
    gap: 8px;
    padding: 0 8px;
    li a,
    li span {
      padding: 0 7px;
    }
    .side {
      gap: 3px;
    }
    .title {
      max-width: 90px;
    }
  }
`;

/** The stages in the order people work; those that need a picture wait until one is chosen. */
export function StageBar({ place = {}, children }: { place?: Place; children?: ReactNode }) {
  const stages = (Object.keys(STAGES) as Stage[]).map((name) => ({ name, to: stageAt(name, place) }));
  return (
    <Bar>
      <NavLink to="/" className="name" aria-label="Tersum, all jobs">
        <svg width="18" height="18" viewBox="0 0 32 32" aria-hidden>
          <path
            d="M4 26 26 4M4 18 18 4M4 10 10 4M12 26 26 12M20 26 26 20"
            stroke={theme.accent}
            strokeWidth="3"
            fill="none"
          />
        </svg>
        Tersum
      </NavLink>
      <nav aria-label="Stages">
        <ol>
          {stages.map((s) => (
            <li key={s.name}>
              {s.to ? (
                <NavLink to={s.to} end>
                  {s.name}
                </NavLink>
              ) : (
                <span>{s.name}</span>
              )}
            </li>
          ))}
        </ol>
      </nav>
      <TaskPlace pictureId={place.pictureId} />
      <div className="side">{children}</div>
    </Bar>
  );
}

export const Shell = styled.div`
  height: 100%;
  display: flex;
  flex-direction: column;
  min-height: 0;
  > main {
    flex: 1;
    min-height: 0;
    overflow: auto;
  }
`;

export const Column = styled.div`
  max-width: 1120px;
  margin: 0 auto;
  padding: 26px 28px 60px;
  display: grid;
  gap: 22px;
`;

/** What stands there until a picture is open, or why it cannot be. */
export function Opening({ error }: { error: Error | undefined }) {
  return (
    <Shell>
      <StageBar />
      <main>
        <Column>
          {error ? (
            <>
              <h1>The picture could not be opened</h1>
              <p role="alert">{error.message}</p>
            </>
          ) : (
            <p role="status">Opening the picture…</p>
          )}
        </Column>
      </main>
    </Shell>
  );
}
