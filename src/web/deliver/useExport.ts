import { useState } from 'react';
import { mutate } from 'swr';
import { EXPORTS } from '../../contract/addresses.ts';
import { addressOf } from '../../contract/endpoint.ts';
import type { ExportFormat } from '../../contract/exports.ts';
import { call } from '../lib/http.ts';

/** Saves what stands at an address as a file. */
export function save(address: string): void {
  const a = document.createElement('a');
  a.href = address;
  a.download = '';
  a.click();
}

/** What left of a picture is asked for again, once what is being saved has been noted. */
export const refreshDeliveries = (pictureId: string) => mutate(addressOf(EXPORTS.list, { id: pictureId }));

/** Exports of one picture: what is waited for, and what was refused. */
export function useExport(pictureId: string) {
  const [waiting, setWaiting] = useState<{ format: ExportFormat; stop: AbortController } | null>(null);
  const [refusal, setRefusal] = useState<{ format: ExportFormat | null; message: string } | null>(null);
  const names = { id: pictureId };
  /** Waits until everything asked for is in the picture, then saves it; what is missing is said first. */
  const run = async (format: ExportFormat, missing: 'refuse' | 'leave' = 'refuse') => {
    const stop = new AbortController();
    setRefusal(null);
    setWaiting({ format, stop });
    try {
      await call(EXPORTS.ready, names, { query: { missing }, signal: stop.signal });
      save(addressOf(EXPORTS.file, names, { format, missing }));
    } catch (e) {
      if (!stop.signal.aborted) setRefusal({ format, message: (e as Error).message });
    } finally {
      setWaiting(null);
    }
  };
  return { waiting, refusal, setRefusal, run };
}
