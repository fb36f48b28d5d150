import { useState } from 'react';
import { Button, Select } from '../ui/controls.tsx';
import { Dialog } from '../ui/dialog.tsx';
import { restSetting } from '../worklist/useWorkClock.ts';

/** Proposes a rest once eyes have looked for as long as was set; what is seen with rested eyes is seen truer. */
export function Rest({ onRested }: { onRested(): void }) {
  const [minutes, setMinutes] = useState(restSetting);
  return (
    <Dialog title="Rest your eyes" isOpen onClose={onRested}>
      <p>You have looked at this for {minutes} minutes. Look into the distance for a while; then judge again.</p>
      <label>
        Remind me{' '}
        <Select
          value={minutes}
          onChange={(e) => {
            setMinutes(Number(e.target.value));
            localStorage.setItem('restMinutes', e.target.value);
          }}
        >
          {[20, 30, 45, 60, 90].map((m) => (
            <option key={m} value={m}>
              after {m} minutes
            </option>
          ))}
          <option value={0}>never</option>
        </Select>
      </label>
      <div style={{ display: 'flex', justifyContent: 'end' }}>
        <Button kind="main" onPress={onRested}>
          Go on
        </Button>
      </div>
    </Dialog>
  );
}
