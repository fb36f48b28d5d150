import { spawnSync } from 'node:child_process';
import { TestServer } from '../../../e2e/server.ts';
import type { Job } from '../../contract/studio.ts';
import { count, newReport, type Report } from './report.ts';

interface Answer {
  same: boolean;
  pictures: Array<{ name: string; compared: number; bytes: number; different: string[]; missing: string[] }>;
}

/** Every job of the demo rendered anew from originals and specs alone: the same bytes as the server keeps. */
export async function replayedDemo(): Promise<Report> {
  const report = newReport('replay of the demo');
  const server = new TestServer(undefined, {});
  await server.start();
  for (const job of await server.json<Job[]>('/jobs'))
    for (const { id } of job.pictures) await server.json(`/pictures/${id}/export/ready`);
  await server.kill('SIGTERM');
  const run = spawnSync(process.execPath, ['dist/server/command.js', 'replay', '--data', server.data], {
    encoding: 'utf8',
  });
  const { same, pictures } = JSON.parse(run.stdout) as Answer;
  for (const { name, compared, bytes, different, missing } of pictures) {
    count(report, `${name}: ${compared} renderings, ${bytes} bytes`);
    report.problems.push(
      ...different.map((r) => `${name}: ${r} differs`),
      ...missing.map((r) => `${name}: ${r} is missing`),
    );
  }
  if (!same || run.status !== 0) report.problems.push('the replay says that something differs');
  return report;
}
