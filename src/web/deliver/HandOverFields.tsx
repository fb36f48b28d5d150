import { useState } from 'react';
import styled from 'styled-components';
import { JOBS } from '../../contract/addresses.ts';
import type { PictureDocument } from '../../contract/document.ts';
import { fileNameFrom, NAME_WORDS, unknownWords } from '../../contract/file-names.ts';
import { SOURCE_TYPES, USUAL_HAND_OVER, type HandOver, type SourceType } from '../../contract/hand-over.ts';
import type { Job, PictureRow } from '../../contract/studio.ts';
import { mayRepair } from '../../core/plan/policy.ts';
import { fittingSourceType, sentenceFor, treatedBy } from '../../record/build.ts';
import { refreshJobs } from '../lib/api.ts';
import { call } from '../lib/http.ts';
import { theme } from '../theme.ts';
import { Button, Check, Field } from '../ui/controls.tsx';
import { Slider } from '../ui/sliders.tsx';
import { Warning } from './parts.ts';

const Side = styled.aside`
  display: grid;
  gap: 14px;
  align-content: start;
  p {
    font-size: 13px;
    margin: 0;
  }
  .preview {
    font-family: ${theme.figures};
    font-size: 12px;
    color: ${theme.quiet};
    overflow-wrap: anywhere;
  }
`;

/** A text that is kept when it is left, or with Enter. */
function Kept({
  label,
  value,
  onKeep,
  lines = 1,
}: {
  label: string;
  value: string;
  onKeep(value: string): void;
  lines?: number;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    if (typed !== null && typed.trim() !== value) onKeep(typed.trim());
    setTyped(null);
  };
  const common = { value: typed ?? value, onBlur: keep };
  return (
    <Field>
      {label}
      {lines > 1 ? (
        <textarea {...common} rows={lines} maxLength={600} onChange={(e) => setTyped(e.target.value)} />
      ) : (
        <input
          {...common}
          maxLength={200}
          onChange={(e) => setTyped(e.target.value)}
          onKeyDown={(e) => e.key === 'Enter' && keep()}
        />
      )}
    </Field>
  );
}

/** How the files of a job leave: names, who repaired, what metadata say, sizes. Kept with the job. */
export function HandOverFields({
  job,
  picture,
  document,
  version,
}: {
  job: Job;
  picture: PictureRow;
  document: PictureDocument;
  version: number;
}) {
  const [problem, setProblem] = useState<string | null>(null);
  const now = job.handOver ?? USUAL_HAND_OVER;
  const [quality, setQuality] = useState(now.quality);
  const set = (part: Partial<HandOver>) => {
    setProblem(null);
    call(JOBS.change, { id: job.id }, { body: { handOver: { ...now, ...part } } })
      .then(() => refreshJobs())
      .catch((e: Error) => setProblem(e.message));
  };
  const nameOf = (template: string) =>
    fileNameFrom(template, {
      client: job.client,
      job: job.name,
      picture: picture.name.replace(/\.[a-z0-9]+$/i, ''),
      version,
      date: new Date().toISOString().slice(0, 10),
    });
  const unknown = unknownWords(now.template);
  const treated = treatedBy(document);
  const against = treated.filter((f) => !mayRepair(job.policy, f.kind));
  const fitting = fittingSourceType(document, Boolean(picture.joined));
  const sentence = sentenceFor(document, picture.joined);
  return (
    <Side aria-label="How files leave">
      <h2>How files leave</h2>
      {against.length > 0 && (
        <Warning role="alert">
          <p>
            This is a documentary job, and repairs changed what the picture shows: fault{' '}
            {against.map((f) => f.number).join(', ')}. Say so in the disclosure, or take those repairs back.
          </p>
        </Warning>
      )}
      <Kept
        label="File name"
        value={now.template}
        onKeep={(template) => set({ template: template || USUAL_HAND_OVER.template })}
      />
      <p className="preview">
        {nameOf(now.template)}.tif
        <br />
        Words: {NAME_WORDS.map((w) => `{${w}}`).join(' ')}
      </p>
      {unknown.length > 0 && <p role="alert">{`{${unknown[0]}} means nothing: it stays in the name as it is.`}</p>}
      <Kept label="Repaired by" value={now.editor} onKeep={(editor) => set({ editor })} />
      <Field>
        Digital source type in metadata
        <select value={now.sourceType} onChange={(e) => set({ sourceType: e.target.value as HandOver['sourceType'] })}>
          <option value="fitting">What fits what was done</option>
          <option value="none">Say nothing</option>
          {(Object.keys(SOURCE_TYPES) as SourceType[]).map((t) => (
            <option key={t} value={t}>
              {SOURCE_TYPES[t]}
            </option>
          ))}
        </select>
      </Field>
      {now.sourceType === 'fitting' && (
        <p className="quiet">{fitting ? `${SOURCE_TYPES[fitting]}.` : 'Nothing was done, so nothing is added.'}</p>
      )}
      <Kept
        label="Disclosure"
        lines={5}
        value={now.disclosure ?? sentence}
        onKeep={(text) => set({ disclosure: text && text !== sentence ? text : null })}
      />
      {now.disclosure !== null && (
        <div>
          <Button kind="quiet" onPress={() => set({ disclosure: null })}>
            Put together from the repairs again
          </Button>
        </div>
      )}
      {picture.facts.place !== false && (
        <Check isSelected={now.place === 'leave'} onChange={(on) => set({ place: on ? 'leave' : 'keep' })}>
          {picture.facts.place
            ? 'Leave out the place where it was taken (GPS), which this file names'
            : 'Leave out the place where it was taken (GPS)'}
        </Check>
      )}
      <Slider
        label="JPEG quality"
        min={50}
        max={100}
        value={quality}
        onChange={setQuality}
        onChangeEnd={(value) => set({ quality: value })}
      />
      <Field>
        Longer side for the web
        <select value={now.webSide} onChange={(e) => set({ webSide: Number(e.target.value) })}>
          {[1080, 1600, 2048, 2560, 3840].map((px) => (
            <option key={px} value={px}>
              {px} px
            </option>
          ))}
        </select>
      </Field>
      {problem && <p role="alert">{problem}</p>}
    </Side>
  );
}
