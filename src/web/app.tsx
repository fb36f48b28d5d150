import { lazy, Suspense } from 'react';
import { Route, Routes } from 'react-router';
import { IntakePage } from './intake/IntakePage.tsx';
import { JobsPage } from './jobs/JobsPage.tsx';
import { useServerEvents } from './lib/api.ts';
import { Column, Shell, StageBar } from './ui/page.tsx';

const SurveyPage = lazy(() => import('./survey/SurveyPage.tsx'));
const BenchPage = lazy(() => import('./bench/BenchPage.tsx'));
const DeliverPage = lazy(() => import('./deliver/DeliverPage.tsx'));

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
        <Route path="/" element={<JobsPage />} />
        <Route path="/jobs/:jobId/intake" element={<IntakePage />} />
        <Route path="/pictures/:pictureId/survey" element={<SurveyPage />} />
        <Route path="/pictures/:pictureId/bench" element={<BenchPage />} />
        <Route path="/pictures/:pictureId/deliver" element={<DeliverPage />} />
        <Route path="*" element={<Nowhere />} />
      </Routes>
    </Suspense>
  );
}
