import { stageAt, STAGES, toStage } from './stages.ts';

test('stages have addresses once what they need is known', () => {
  expect(stageAt('Jobs', {})).toBe('/');
  expect(stageAt('Intake', { pictureId: 'p' })).toBeUndefined();
  expect(stageAt('Intake', { jobId: 'j' })).toBe('/jobs/j/intake');
  expect(stageAt('Bench', { jobId: 'j', pictureId: 'p' })).toBe('/pictures/p/bench');
  expect(toStage('Deliver', {})).toBe('/');
  expect(Object.keys(STAGES)).toEqual(['Jobs', 'Intake', 'Survey', 'Bench', 'Frame', 'Check', 'Deliver']);
});
