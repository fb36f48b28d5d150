import { useState } from 'react';
import styled from 'styled-components';
import { LETTERBOX } from '../../contract/addresses.ts';
import { refreshJobs } from '../lib/api.ts';
import { bytes } from '../lib/format.ts';
import { call, useAnswer } from '../lib/http.ts';
import { theme } from '../theme.ts';
import { Button } from '../ui/controls.tsx';

const Place = styled.section`
  border: 1px solid ${theme.rule};
  border-left: 3px solid ${theme.amber};
  padding: 10px 14px;
  display: grid;
  gap: 6px;
  font-size: 13px;
  h2 {
    font-size: 14px;
    margin: 0;
  }
  div {
    display: flex;
    gap: 12px;
    align-items: center;
    justify-content: space-between;
  }
`;

/** Files that the client sent and that wait in the letterbox. */
export function FromLetterbox({ jobId, client }: { jobId: string; client: string }) {
  const { data, mutate } = useAnswer(LETTERBOX.waiting, { id: jobId });
  const [taking, setTaking] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  if (!data?.length) return null;
  const take = async (name: string) => {
    setTaking(name);
    setProblem(null);
    try {
      await call(LETTERBOX.take, { id: jobId }, { body: { name } });
      await Promise.all([mutate(), refreshJobs()]);
    } catch (e) {
      setProblem(`${name}: ${(e as Error).message}`);
    } finally {
      setTaking(null);
    }
  };
  return (
    <Place aria-label="Letterbox">
      <h2>In the letterbox{client && ` of ${client}`}</h2>
      {data.map(({ name, bytes: size }) => (
        <div key={name}>
          <span>
            {name} <span className="quiet">{bytes(size)}</span>
          </span>
          <Button isDisabled={taking !== null} onPress={() => void take(name)} aria-label={`Take in ${name}`}>
            {taking === name ? 'Reading…' : 'Take in'}
          </Button>
        </div>
      ))}
      {problem && <p role="alert">{problem}</p>}
    </Place>
  );
}
