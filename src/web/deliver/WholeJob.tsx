import { useState } from 'react';
import { EXPORTS, JOBS, LETTERBOX } from '../../contract/addresses.ts';
import { addressOf } from '../../contract/endpoint.ts';
import { EXPORTED, EXPORT_FORMATS, type ExportFormat } from '../../contract/exports.ts';
import type { Job } from '../../contract/studio.ts';
import { refreshJobs, useTasks } from '../lib/api.ts';
import { plural } from '../lib/format.ts';
import { call } from '../lib/http.ts';
import { Button, Field, Select } from '../ui/controls.tsx';
import { TaskLine } from '../ui/task-line.tsx';
import { Line } from './parts.ts';
import { save } from './useExport.ts';

const FLAT = EXPORT_FORMATS.filter((f) => EXPORTED[f].group === 'picture');

/** What is done with all pictures of a job at once: saving them, a contact sheet, sending them to the client. */
export function WholeJob({ job }: { job: Job }) {
  const [format, setFormat] = useState<ExportFormat>('tiff');
  const [note, setNote] = useState('');
  const [problem, setProblem] = useState<string | null>(null);
  const [sent, setSent] = useState<string | null>(null);
  const task = useTasks().find((t) => t.id === sent);
  const act = (work: Promise<unknown>) => {
    setProblem(null);
    work.catch((e: Error) => setProblem(e.message));
  };
  return (
    <section aria-label="The whole job" style={{ display: 'grid', gap: 12 }}>
      <h2>The whole job, {plural(job.pictures.length, 'picture')}</h2>
      <Line>
        <Select aria-label="All pictures as" value={format} onChange={(e) => setFormat(e.target.value as ExportFormat)}>
          {FLAT.map((f) => (
            <option key={f} value={f}>
              {EXPORTED[f].name}
            </option>
          ))}
        </Select>
        <Button onPress={() => save(addressOf(EXPORTS.job, { id: job.id }, { format }))}>Save all in one file</Button>
        <Button onPress={() => save(addressOf(EXPORTS.contacts, { id: job.id }))}>Contact sheet, PDF</Button>
      </Line>
      <Field>
        Note to {job.client || 'the client'}
        <textarea rows={2} maxLength={4000} value={note} onChange={(e) => setNote(e.target.value)} />
      </Field>
      <Line>
        <Button
          kind="main"
          isDisabled={task?.state === 'running'}
          onPress={() =>
            act(call(LETTERBOX.send, { id: job.id }, { body: { format, note } }).then(({ taskId }) => setSent(taskId)))
          }
        >
          Send all to the letterbox
        </Button>
        <Button
          onPress={() =>
            act(call(JOBS.change, { id: job.id }, { body: { delivered: !job.deliveredAt } }).then(() => refreshJobs()))
          }
        >
          {job.deliveredAt ? 'Take delivery back' : 'Mark job as delivered'}
        </Button>
        <span className="quiet">
          {job.deliveredAt ? `“${job.name}” is delivered.` : 'Sending marks the job as delivered.'}
        </span>
      </Line>
      {task && <TaskLine task={task} />}
      {problem && <p role="alert">{problem}</p>}
    </section>
  );
}
