import { lazy, Suspense, type ComponentType } from 'react';
import { Route, Routes } from 'react-router';
import { IntakePage } from './intake/IntakePage.tsx';
import { JobsPage } from './jobs/JobsPage.tsx';
import { useServerEvents } from './lib/api.ts';
import { STAGES, type Stage } from './lib/stages.ts';
import { Column, Shell, StageBar } from './ui/page.tsx';

/** The page of every stage, one line each; its address stands in `lib/stages.ts`. */
const PAGES: Record<Stage, ComponentType> = {
  Jobs: JobsPage,
  Intake: IntakePage,
  Survey: lazy(() => import('./survey/SurveyPage.tsx')),
  Bench: lazy(() => import('./bench/BenchPage.tsx')),
  Frame: lazy(() => import('./frame/FramePage.tsx')),
  Check: lazy(() => import('./check/CheckPage.tsx')),
  Deliver: lazy(() => import('./deliver/DeliverPage.tsx')),
};

function Nowhere() {
  return (
    <Shell>
      <StageBar />
      <main>
        <Column>
          <h1>There is nothing at this address</h1>
          <p>Go to Jobs and open the picture from there.</p>
        </Column>
      </main>
    </Shell>
  );
}

export function App() {
  useServerEvents();
  return (
    <Suspense
      fallback={
        <Shell>
          <StageBar />
          <main>
            <Column role="status">Opening…</Column>
          </main>
        </Shell>
      }
    >
      <Routes>
        {(Object.keys(PAGES) as Stage[]).map((stage) => {
          const Page = PAGES[stage];
          return <Route key={stage} path={STAGES[stage]} element={<Page />} />;
        })}
        <Route path="*" element={<Nowhere />} />
      </Routes>
    </Suspense>
  );
}
