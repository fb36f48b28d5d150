import { useRef, useState } from 'react';
import type { PictureState } from '../../../contract/api.ts';
import { Divider } from '../../viewer/Divider.tsx';
import { usePictureViewer } from '../../viewer/usePictureViewer.ts';
import { Sheet } from './sheet.ts';

/** One view of the picture, with a divider or compared with what it was. */
export function Compared({ state, view }: { state: PictureState; view: 'divider' | 'difference' | 'changes' }) {
  const host = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(0.5);
  usePictureViewer(host, state, { compare: view, divider: at });
  return (
    <Sheet>
      <div ref={host} className="osd" role="img" aria-label={`The picture, ${view}`} />
      {view === 'divider' && <Divider at={at} onMove={setAt} />}
    </Sheet>
  );
}
