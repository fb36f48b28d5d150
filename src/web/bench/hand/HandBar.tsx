import styled from 'styled-components';
import type { PictureState } from '../../../contract/api.ts';
import { theme } from '../../theme.ts';
import { Button, Check, Select, Slider, Strip, Toggle } from '../../ui/controls.tsx';
import type { Pose } from '../../../core/repair/hand/donor.ts';
import type { Direction } from './floating.ts';
import type { Hand, HandSettings } from './useHand.ts';

const Bar = styled.div`
  display: flex;
  gap: 4px 10px;
  width: 100%;
  align-items: center;
  flex-wrap: wrap;
  font-size: 13px;
  .slider {
    width: 94px;
    white-space: nowrap;
  }
  .slider output {
    white-space: nowrap;
  }
  label {
    display: inline-flex;
    gap: 5px;
    align-items: center;
    white-space: nowrap;
  }
  button {
    min-height: 26px;
  }
  .said {
    flex: 1 1 240px;
    margin: 0;
    line-height: 16px;
    color: ${theme.quiet};
    font-size: 12.5px;
  }
  .said.warns {
    color: #8a4b00;
    font-weight: 600;
  }
`;

const Figure = styled.label`
  display: inline-flex;
  gap: 4px;
  align-items: center;
  white-space: nowrap;
  input {
    width: 56px;
    font: 500 12.5px ${theme.figures};
    padding: 2px 3px;
    border: 1px solid ${theme.ruleStrong};
    border-radius: 3px;
    background: ${theme.sheet};
  }
`;

const percent = (v: number) => Math.round(v * 100);

/** Turn, size and mirroring of a donor or a piece, as figures. */
export function PoseFields({ pose, onChange }: { pose: Pose; onChange(pose: Pose): void }) {
  return (
    <>
      <Figure>
        Turn
        <input
          type="number"
          aria-label="Turn, degrees"
          min={-180}
          max={180}
          step={1}
          value={Math.round(pose.turn * 10) / 10}
          onChange={(e) => onChange({ ...pose, turn: Math.min(360, Math.max(-360, Number(e.target.value) || 0)) })}
        />
        °
      </Figure>
      <Figure>
        Scale
        <input
          type="number"
          aria-label="Scale, percent"
          min={25}
          max={400}
          step={1}
          value={Math.round(pose.scale * 1000) / 10}
          onChange={(e) =>
            onChange({ ...pose, scale: Math.min(4, Math.max(0.25, (Number(e.target.value) || 100) / 100)) })
          }
        />
        %
      </Figure>
      <Select
        aria-label="Mirror"
        value={pose.mirror}
        onChange={(e) => onChange({ ...pose, mirror: e.target.value as Pose['mirror'] })}
      >
        <option value="none">not mirrored</option>
        <option value="across">left to right</option>
        <option value="down">top to bottom</option>
      </Select>
    </>
  );
}

const PASSIVE: Record<NonNullable<Hand['mode']>, string> = {
  copy: 'Hold D and click where pixels are to be taken from, then paint. Shift draws a straight run from the last stroke.',
  blend: 'Paint: a donor is found nearby, or hold D and click to choose one. Tone comes from the surroundings.',
  patch: 'Outline an area, then drag it.',
  transplant: 'Outline the piece to lift, then drag it to its place.',
  shade: 'Paint: each pass adds a little.',
  reveal: 'Paint on what the chosen repair, or else the chosen layer, is to hide or show.',
};

/** The settings of the verb in hand, and what it has to say. */
export function HandBar({ state, hand, onSize }: { state: PictureState; hand: Hand; onSize(v: number): void }) {
  const { mode, settings, set, floating } = hand;
  if (!mode) return null;
  const brush = (change: Partial<HandSettings['brush']>) => set({ brush: { ...settings.brush, ...change } });
  const stroked =
    mode === 'copy' || mode === 'blend' || mode === 'shade' || (mode === 'reveal' && settings.revealOp !== 'original');
  const target = hand.repair ? 'the chosen repair' : 'the chosen layer';
  const hint =
    mode === 'reveal'
      ? settings.revealOp === 'original'
        ? 'Outline an area: every layer is hidden there, and the original is seen again.'
        : `Paint on what ${target} is to ${settings.revealOp}.`
      : floating
        ? floating.kind === 'patch'
          ? settings.direction === 'to the good'
            ? 'Drag the outline to the good area, look, put it down (Enter).'
            : 'Drag the good area onto the bad one, put it down (Enter).'
          : `Drag the piece to its place; the knob turns and sizes it.${floating.agreement === undefined ? '' : ` Solved pose: agrees ${Math.round(100 * floating.agreement)} %.`}`
        : PASSIVE[mode];
  return (
    <Bar>
      {stroked && (
        <>
          <div className="slider">
            <Slider label="Size" unit="px" min={1} max={400} value={Math.min(400, hand.size)} onChange={onSize} />
          </div>
          {(['hardness', 'flow', 'opacity'] as const).map((k) => (
            <div key={k} className="slider">
              <Slider
                label={k[0].toUpperCase() + k.slice(1)}
                unit="%"
                min={k === 'hardness' ? 0 : 1}
                max={100}
                value={percent(settings.brush[k])}
                onChange={(v) => brush({ [k]: v / 100 })}
              />
            </div>
          ))}
          <Select
            aria-label="The pen’s pressure drives"
            style={{ width: 92 }}
            value={settings.brush.pressure}
            onChange={(e) => brush({ pressure: e.target.value as HandSettings['brush']['pressure'] })}
          >
            <option value="size">pen: size</option>
            <option value="flow">pen: flow</option>
            <option value="none">pen: nothing</option>
          </Select>
        </>
      )}
      {(mode === 'copy' || mode === 'blend') && (
        <>
          <Toggle isSelected={hand.armed} onChange={hand.setArmed}>
            {hand.from ? 'Other donor' : 'Set donor'}
          </Toggle>
          <Strip
            aria-label="The donor"
            selectionMode="single"
            disallowEmptySelection
            selectedKeys={[settings.travels ? 'travels' : 'returns']}
            onSelectionChange={(k) => set({ travels: [...k][0] === 'travels' })}
          >
            <Toggle id="travels">travels</Toggle>
            <Toggle id="returns">returns</Toggle>
          </Strip>
          <PoseFields pose={settings.pose} onChange={(pose) => set({ pose })} />
          {hand.fault?.line && <Button onPress={hand.alongLine}>Along its line</Button>}
        </>
      )}
      {mode === 'shade' && (
        <>
          <Strip
            aria-label="What the brush gives"
            selectionMode="single"
            disallowEmptySelection
            selectedKeys={[settings.shade.effect]}
            onSelectionChange={(k) =>
              set({ shade: { ...settings.shade, effect: [...k][0] as HandSettings['shade']['effect'] } })
            }
          >
            <Toggle id="tone">Light</Toggle>
            <Toggle id="grain">Grain</Toggle>
          </Strip>
          {settings.shade.effect === 'tone' && (
            <>
              <Figure>
                Exposure
                <input
                  type="number"
                  aria-label="Exposure, stops a pass"
                  min={-2}
                  max={2}
                  step={0.05}
                  value={settings.shade.stops}
                  onChange={(e) =>
                    set({
                      shade: { ...settings.shade, stops: Math.min(2, Math.max(-2, Number(e.target.value) || 0)) },
                    })
                  }
                />
                stops
              </Figure>
              <Select
                aria-label="Tone range"
                value={settings.shade.range}
                onChange={(e) =>
                  set({ shade: { ...settings.shade, range: e.target.value as HandSettings['shade']['range'] } })
                }
              >
                <option value="all">all tones</option>
                <option>shadows</option>
                <option>mid-tones</option>
                <option>highlights</option>
              </Select>
            </>
          )}
        </>
      )}
      {mode === 'reveal' && (
        <Strip
          aria-label="What the brush does"
          selectionMode="single"
          disallowEmptySelection
          selectedKeys={[settings.revealOp]}
          onSelectionChange={(k) => set({ revealOp: [...k][0] as HandSettings['revealOp'] })}
        >
          <Toggle id="hide">Hide</Toggle>
          <Toggle id="show">Show</Toggle>
          <Toggle id="original">Bring back the original</Toggle>
        </Strip>
      )}
      {(mode === 'patch' || mode === 'transplant') && (
        <>
          {mode === 'patch' && (
            <Select
              aria-label="Direction"
              value={settings.direction}
              onChange={(e) => set({ direction: e.target.value as Direction })}
              disabled={Boolean(floating?.editing)}
            >
              <option value="to the good">bad outlined, drag to the good</option>
              <option value="onto the bad">good outlined, drag onto the bad</option>
            </Select>
          )}
          <Check isSelected={settings.blended} onChange={(blended) => set({ blended })}>
            blended
          </Check>
          <div className="slider">
            <Slider
              label="Feather"
              unit="px"
              min={0}
              max={60}
              value={settings.feather}
              onChange={(feather) => set({ feather })}
            />
          </div>
          {!floating && hand.fault && (
            <Button onPress={() => hand.lift(hand.fault!.shapes)}>
              {mode === 'patch' ? 'Take the fault’s cover' : 'Lift the fault’s cover'}
            </Button>
          )}
          {!floating && hand.repair && <Button onPress={hand.takeUp}>Take up the placed one</Button>}
          {floating && (
            <>
              <PoseFields pose={floating.pose} onChange={(pose) => hand.changeFloating({ ...floating, pose })} />
              {mode === 'transplant' && (
                <>
                  <Toggle isSelected={hand.bending} onChange={hand.setBending}>
                    Bend
                  </Toggle>
                  <Button isDisabled={hand.solving} onPress={() => void hand.solvePose()}>
                    {hand.solving ? 'Solving…' : 'Solve pose'}
                  </Button>
                  <Check isSelected={settings.hidden} onChange={(hidden) => set({ hidden })}>
                    hidden, to be revealed
                  </Check>
                </>
              )}
              <Button kind="main" onPress={hand.putDown}>
                Put down
              </Button>
              <Button kind="quiet" onPress={() => hand.changeFloating(null)}>
                Drop
              </Button>
            </>
          )}
        </>
      )}
      <p className={hand.message ? 'said warns' : 'said'} role="status">
        {hand.message ?? hint}
        {mode === 'reveal' && !hand.repair && settings.revealOp !== 'original' && state.document.layers.length === 0
          ? ' There is no repair yet.'
          : ''}
      </p>
    </Bar>
  );
}
