import { useRef, useState } from 'react';
import { FileTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { EXPORTS } from '../../contract/addresses.ts';
import { addressOf } from '../../contract/endpoint.ts';
import type { Delivery } from '../../contract/hand-over.ts';
import type { Verification } from '../../contract/record.ts';
import { bytes, when } from '../lib/format.ts';
import { sendFile } from '../lib/http.ts';
import { theme } from '../theme.ts';
import { Button } from '../ui/controls.tsx';
import { Line, Rows } from './parts.ts';
import { save } from './useExport.ts';

const Outcome = styled.div<{ $agrees: boolean }>`
  grid-column: 1 / -1;
  border-left: 3px solid ${({ $agrees }) => ($agrees ? theme.accent : theme.amber)};
  padding: 4px 12px;
  font-size: 13px;
  ol {
    margin: 4px 0 0;
    padding: 0;
    list-style: none;
  }
`;

/** How one file that left came out, when it was compared with its record. */
function Compared({ outcome: { agrees, steps } }: { outcome: Verification }) {
  return (
    <Outcome role="status" $agrees={agrees}>
      <strong>{agrees ? 'Original, record and file belong together.' : 'They do not belong together.'}</strong>
      <ol>
        {steps.map((s) => (
          <li key={s.what}>
            {s.agrees ? '✓' : '✗'} {s.what}: {s.words}
          </li>
        ))}
      </ol>
    </Outcome>
  );
}

function Left({ delivery }: { delivery: Delivery }) {
  const { id, fileName, at, version, sent } = delivery;
  const [state, setState] = useState<'comparing' | { problem: string } | Verification | null>(null);
  const stop = useRef<AbortController>(null);
  const compare = (file: File) => {
    stop.current = new AbortController();
    setState('comparing');
    sendFile<Verification>(addressOf(EXPORTS.verify, { id }), file, stop.current.signal)
      .then(setState)
      .catch((e: Error) => setState(stop.current?.signal.aborted ? null : { problem: e.message }));
  };
  return (
    <section aria-label={fileName}>
      <h3 style={{ gridColumn: '1 / 3', overflowWrap: 'anywhere' }}>{fileName}</h3>
      <Line>
        {(['json', 'csv', 'pdf'] as const).map((form) => (
          <Button
            key={form}
            kind="quiet"
            aria-label={`Record of ${fileName}, ${form.toUpperCase()}`}
            onPress={() => save(addressOf(EXPORTS.record, { id }, { form }))}
          >
            Record {form.toUpperCase()}
          </Button>
        ))}
        {state === 'comparing' ? (
          <Button kind="quiet" onPress={() => stop.current?.abort()}>
            Doing it all again · stop
          </Button>
        ) : (
          <FileTrigger onSelect={(list) => list?.[0] && compare(list[0])}>
            <Button kind="quiet" aria-label={`Verify a file against the record of ${fileName}`}>
              Verify…
            </Button>
          </FileTrigger>
        )}
      </Line>
      <p style={{ gridColumn: '1 / -1' }}>
        Version {version} · {when(at)} · {bytes(delivery.bytes)}
        {sent ? ' · sent to the letterbox' : ''}
      </p>
      {state && typeof state === 'object' && 'problem' in state && <p role="alert">{state.problem}</p>}
      {state && typeof state === 'object' && 'agrees' in state && <Compared outcome={state} />}
    </section>
  );
}

/** What left of a picture, each file with its repair record; and whether a file is what its record says. */
export function Deliveries({ list }: { list: readonly Delivery[] | undefined }) {
  return (
    <section aria-label="What left" style={{ display: 'grid', gap: 8 }}>
      <h2>What left</h2>
      {list?.length ? (
        <Rows>
          {list.map((d) => (
            <Left key={d.id} delivery={d} />
          ))}
        </Rows>
      ) : (
        <p className="quiet">
          Nothing yet. Every picture that leaves is noted here with its repair record, from which it can be verified.
        </p>
      )}
    </section>
  );
}
