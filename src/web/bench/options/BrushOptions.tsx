import { Select, Strip, Toggle } from '../../ui/controls.tsx';
import { SizeSlider, Slider } from '../../ui/sliders.tsx';
import type { HandSettings } from '../hand/settings.ts';
import { useBench } from '../useBench.ts';
import { Figure } from './PoseFields.tsx';

const percent = (v: number) => Math.round(v * 100);

/** Size, hardness, flow and opacity of the brush, and what a pen drives. */
export function BrushOptions() {
  const { hand, size, setSize } = useBench();
  const { settings, set } = hand;
  const brush = (change: Partial<HandSettings['brush']>) => set({ brush: { ...settings.brush, ...change } });
  return (
    <>
      <div className="two">
        <SizeSlider label="Size" value={size} onChange={setSize} />
        {(['hardness', 'flow', 'opacity'] as const).map((k) => (
          <Slider
            key={k}
            label={k[0].toUpperCase() + k.slice(1)}
            unit="%"
            min={k === 'hardness' ? 0 : 1}
            max={100}
            value={percent(settings.brush[k])}
            onChange={(v) => brush({ [k]: v / 100 })}
          />
        ))}
      </div>
      <Select
        aria-label="The pen’s pressure drives"
        value={settings.brush.pressure}
        onChange={(e) => brush({ pressure: e.target.value as HandSettings['brush']['pressure'] })}
      >
        <option value="size">A pen’s pressure: size</option>
        <option value="flow">A pen’s pressure: flow</option>
        <option value="none">A pen’s pressure: nothing</option>
      </Select>
    </>
  );
}

/** Stops of a pass, at least. */
const LEAST_STOPS = 0.05;

export function ShadeOptions() {
  const { settings, set } = useBench().hand;
  const { shade } = settings;
  const change = (next: Partial<HandSettings['shade']>) => set({ shade: { ...shade, ...next } });
  return (
    <>
      <BrushOptions />
      <Strip
        aria-label="What the brush gives"
        className="strip"
        selectionMode="single"
        disallowEmptySelection
        selectedKeys={[shade.effect]}
        onSelectionChange={(k) => change({ effect: [...k][0] as HandSettings['shade']['effect'] })}
      >
        <Toggle id="tone">Light</Toggle>
        <Toggle id="grain">Grain</Toggle>
      </Strip>
      {shade.effect === 'tone' && (
        <Strip
          aria-label="Lighten or darken"
          className="strip"
          selectionMode="single"
          disallowEmptySelection
          selectedKeys={[shade.stops < 0 ? 'darken' : 'lighten']}
          onSelectionChange={(k) =>
            change({ stops: ([...k][0] === 'darken' ? -1 : 1) * (Math.abs(shade.stops) || LEAST_STOPS) })
          }
        >
          <Toggle id="lighten">Lighten</Toggle>
          <Toggle id="darken">Darken</Toggle>
        </Strip>
      )}
      {shade.effect === 'tone' && (
        <div className="two">
          <Figure>
            <input
              type="number"
              aria-label="Exposure, stops a pass"
              min={LEAST_STOPS}
              max={2}
              step={0.05}
              value={Math.abs(shade.stops)}
              onChange={(e) =>
                change({
                  stops:
                    (shade.stops < 0 ? -1 : 1) *
                    Math.min(2, Math.max(LEAST_STOPS, Math.abs(Number(e.target.value)) || LEAST_STOPS)),
                })
              }
            />
            stops
          </Figure>
          <Select
            aria-label="Tone range"
            value={shade.range}
            onChange={(e) => change({ range: e.target.value as HandSettings['shade']['range'] })}
          >
            <option value="all">all tones</option>
            <option>shadows</option>
            <option>mid-tones</option>
            <option>highlights</option>
          </Select>
        </div>
      )}
    </>
  );
}

export function RevealOptions() {
  const { settings, set } = useBench().hand;
  return (
    <>
      <Strip
        aria-label="What the brush does"
        className="strip"
        selectionMode="single"
        disallowEmptySelection
        selectedKeys={[settings.revealOp]}
        onSelectionChange={(k) => set({ revealOp: [...k][0] as HandSettings['revealOp'] })}
      >
        <Toggle id="hide">Hide</Toggle>
        <Toggle id="show">Show</Toggle>
        <Toggle id="original" style={{ flex: '2 1 auto' }}>
          Bring back the original
        </Toggle>
      </Strip>
      {settings.revealOp !== 'original' && <BrushOptions />}
    </>
  );
}
