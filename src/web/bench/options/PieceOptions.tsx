import { Button, Check, Select, Toggle } from '../../ui/controls.tsx';
import { Slider } from '../../ui/sliders.tsx';
import type { Direction } from '../hand/floating.ts';
import { useBench } from '../useBench.ts';
import { PoseFields } from './PoseFields.tsx';

/** What is lifted by patch or transplant: how it joins, how it lies, and putting it down. */
export function PieceOptions() {
  const { hand } = useBench();
  const { mode, settings, set, floating } = hand;
  return (
    <>
      {mode === 'patch' && (
        <Select
          aria-label="Direction"
          value={settings.direction}
          onChange={(e) => set({ direction: e.target.value as Direction })}
          disabled={Boolean(floating?.editing)}
        >
          <option value="to the good">the bad is outlined</option>
          <option value="onto the bad">the good is outlined</option>
        </Select>
      )}
      <div className="two">
        <Check isSelected={settings.blended} onChange={(blended) => set({ blended })}>
          blended
        </Check>
        <Slider
          label="Feather"
          unit="px"
          min={0}
          max={60}
          value={settings.feather}
          onChange={(feather) => set({ feather })}
        />
      </div>
      {!floating && (
        <div className="row">
          {hand.fault && (
            <Button onPress={() => hand.lift(hand.fault!.shapes)}>
              {mode === 'patch' ? 'Take the fault’s cover' : 'Lift the fault’s cover'}
            </Button>
          )}
          {hand.repair && <Button onPress={hand.takeUp}>Take up the placed one</Button>}
        </div>
      )}
      {floating && (
        <>
          <PoseFields pose={floating.pose} onChange={(pose) => hand.changeFloating({ ...floating, pose })} />
          {mode === 'transplant' && (
            <>
              <div className="row">
                <Toggle isSelected={hand.bending} onChange={hand.setBending}>
                  Bend
                </Toggle>
                <Button isDisabled={hand.solving} onPress={() => void hand.solvePose()}>
                  {hand.solving ? 'Solving…' : 'Solve pose'}
                </Button>
              </div>
              <Check isSelected={settings.hidden} onChange={(hidden) => set({ hidden })}>
                hidden, to be revealed
              </Check>
            </>
          )}
          <div className="row">
            <Button kind="main" onPress={hand.putDown}>
              Put down
            </Button>
            <Button kind="quiet" onPress={() => hand.changeFloating(null)}>
              Drop
            </Button>
          </div>
        </>
      )}
    </>
  );
}
