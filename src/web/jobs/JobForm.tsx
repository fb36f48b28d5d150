import { useState, type FormEvent } from 'react';
import { newJobSchema, type Job, type NewJob } from '../../contract/studio.ts';
import { theme } from '../theme.ts';
import { Button, Field } from '../ui/controls.tsx';

/** What a job is and how it is delivered; checked here by the same rules as on the server. */
export function JobForm({
  job,
  submit,
  onSubmit,
  onCancel,
}: {
  job?: Job;
  submit: string;
  onSubmit(job: NewJob): Promise<void>;
  /** where it is asked in a dialog */
  onCancel?(): void;
}) {
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const onForm = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const values = Object.fromEntries(new FormData(e.currentTarget));
    const parsed = newJobSchema.safeParse({
      ...values,
      longSideMm: Number(values.longSideMm),
      viewingMm: values.viewingMm ? Number(values.viewingMm) : null,
    });
    if (!parsed.success) return setProblem(parsed.error.issues[0].message);
    setBusy(true);
    try {
      await onSubmit(parsed.data);
      setProblem(null);
    } catch (error) {
      setProblem((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <form onSubmit={(e) => void onForm(e)} style={{ display: 'grid', gap: 12 }}>
      <Field>
        Name
        <input name="name" required maxLength={120} defaultValue={job?.name} autoFocus={!job} />
      </Field>
      <Field>
        Client
        <input name="client" maxLength={120} defaultValue={job?.client} />
      </Field>
      <Field>
        What is wanted
        <textarea name="brief" maxLength={4000} defaultValue={job?.brief} />
      </Field>
      <Field>
        What may be changed
        <select name="policy" defaultValue={job?.policy ?? 'creative'}>
          <option value="documentary">Dust and scratches only</option>
          <option value="restoration">Bring back the original</option>
          <option value="creative">Whatever serves the picture</option>
        </select>
      </Field>
      <Field>
        Donors
        <select name="donors" defaultValue={job?.donors ?? 'search'}>
          <option value="search">are searched by the software first</option>
          <option value="choose">are chosen by the editor</option>
        </select>
      </Field>
      <div style={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 12 }}>
        <Field>
          Long side, mm
          <input
            name="longSideMm"
            type="number"
            min={10}
            max={20000}
            step="any"
            defaultValue={job?.longSideMm ?? 300}
          />
        </Field>
        <Field>
          Looked at from, mm
          <input
            name="viewingMm"
            type="number"
            min={50}
            max={1000000}
            step="any"
            placeholder="usual"
            defaultValue={job?.viewingMm ?? ''}
          />
        </Field>
      </div>
      {problem && (
        <p role="alert" style={{ color: theme.bad }}>
          {problem}
        </p>
      )}
      <div style={{ display: 'flex', gap: 8, justifyContent: 'end' }}>
        {onCancel && <Button onPress={onCancel}>Cancel</Button>}
        <Button kind="main" type="submit" isDisabled={busy}>
          {submit}
        </Button>
      </div>
    </form>
  );
}
