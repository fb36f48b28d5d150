import { useState } from 'react';
import { PICTURES } from '../../contract/addresses.ts';
import type { PictureState } from '../../contract/api.ts';
import { plural } from '../lib/format.ts';
import { call } from '../lib/http.ts';
import { Button } from '../ui/controls.tsx';

/** Repairs that are made again once the hand rests, and a way to hold them until that is asked for. */
export function Waiting({ state: { statuses, picture } }: { state: PictureState }) {
  const [held, setHeld] = useState(false);
  const waiting = statuses.filter((s) => s.state === 'stale').length;
  if (!waiting && !held) return null;
  return (
    <p className="time quiet">
      {plural(waiting, 'repair')} will be updated{' '}
      <Button
        kind="quiet"
        style={{ minHeight: 20, padding: '0 4px', fontSize: 11 }}
        onPress={() => {
          setHeld(!held);
          void call(PICTURES.hold, { id: picture.id }, { body: { held: !held } });
        }}
      >
        {held ? 'Update now' : 'Hold'}
      </Button>
    </p>
  );
}
