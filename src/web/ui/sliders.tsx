import { useRef } from 'react';
import { Label, Slider as AriaSlider, SliderOutput, SliderThumb, SliderTrack } from 'react-aria-components';
import styled from 'styled-components';
import { theme } from '../theme.ts';

const SliderRoot = styled.div`
  min-width: 0;
`;

const SliderFace = styled(AriaSlider)`
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 1px 8px;
  align-items: baseline;
  min-width: 0;
  font-size: 13px;
  .track {
    grid-column: 1 / -1;
    position: relative;
    height: 20px;
  }
  .track::before {
    content: '';
    position: absolute;
    left: 0;
    right: 0;
    top: 9px;
    height: 2px;
    background: ${theme.ruleStrong};
  }
  .thumb {
    width: 12px;
    height: 18px;
    top: 50%;
    border-radius: 2px;
    background: ${theme.sheet};
    border: 2px solid ${theme.accent};
  }
  .thumb[data-focus-visible] {
    outline: 2px solid ${theme.accent};
    outline-offset: 2px;
  }
  .thumb[data-dragging] {
    background: ${theme.accentTint};
  }
`;

/**
 * Reports the end of a change once: when the pointer lets go, and when a key is released that may have been held for many steps.
 * @returns what to give to a slider
 */
function useOneEnd(onChangeEnd: ((value: number) => void) | undefined) {
  const held = useRef(false);
  const waiting = useRef<number | null>(null);
  const end = () => {
    held.current = false;
    if (waiting.current === null) return;
    onChangeEnd?.(waiting.current);
    waiting.current = null;
  };
  return {
    onKeyDownCapture: () => (held.current = true),
    onKeyUp: end,
    onBlur: end,
    onChangeEnd: (value: number) => {
      waiting.current = value;
      if (!held.current) end();
    },
  };
}

/** A slider with its name and value in words and figures. A drag, or a key that is held, ends once. */
export function Slider(props: {
  label: string;
  value: number;
  min: number;
  max: number;
  step?: number;
  unit?: string;
  onChange(value: number): void;
  onChangeEnd?(value: number): void;
  isDisabled?: boolean;
}) {
  const { label, unit = '', value, min, max, step = 1, onChange, isDisabled } = props;
  const { onChangeEnd, ...ends } = useOneEnd(props.onChangeEnd);
  return (
    <SliderRoot {...ends}>
      <SliderFace
        value={value}
        minValue={min}
        maxValue={max}
        step={step}
        onChange={onChange as never}
        onChangeEnd={onChangeEnd as never}
        isDisabled={isDisabled}
      >
        <Label>{label}</Label>
        <SliderOutput className="mono">{`${Math.round(value * 10) / 10}${unit ? ` ${unit}` : ''}`}</SliderOutput>
        <SliderTrack className="track">
          <SliderThumb className="thumb" />
        </SliderTrack>
      </SliderFace>
    </SliderRoot>
  );
}

/** Steps of a slider of sizes, from the least to the most. */
const SIZE_STEPS = 120;

const SizeFace = styled.label`
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 1px 8px;
  align-items: baseline;
  min-width: 0;
  font-size: 13px;
  input {
    grid-column: 1 / -1;
    width: 100%;
    height: 20px;
    margin: 0;
    appearance: none;
    background: linear-gradient(${theme.ruleStrong} 0 0) center / 100% 2px no-repeat;
  }
  input::-webkit-slider-thumb {
    appearance: none;
    width: 12px;
    height: 18px;
    border-radius: 2px;
    background: ${theme.sheet};
    border: 2px solid ${theme.accent};
  }
  input::-moz-range-thumb {
    width: 8px;
    height: 14px;
    border-radius: 2px;
    background: ${theme.sheet};
    border: 2px solid ${theme.accent};
  }
`;

/** A slider of sizes in px: each step a share larger, so that usual sizes lie in its middle. */
export function SizeSlider({
  label,
  value,
  min = 1,
  max = 600,
  onChange,
}: {
  label: string;
  value: number;
  min?: number;
  max?: number;
  onChange(value: number): void;
}) {
  const per = Math.log(max / min) / SIZE_STEPS;
  const sizeAt = (step: number) => Math.round(min * Math.exp(per * step));
  const change = (step: number) => {
    const size = sizeAt(step);
    // Small sizes are whole px: a step there is at least one of them.
    onChange(size === value ? Math.min(max, Math.max(min, value + Math.sign(step - at))) : size);
  };
  const at = Math.round(Math.log(Math.max(min, value) / min) / per);
  return (
    <SizeFace>
      {label}
      <output className="mono">{value} px</output>
      {/* Named by itself: the label belongs to the output, which comes first in it. */}
      <input
        type="range"
        aria-label={label}
        min={0}
        max={SIZE_STEPS}
        value={at}
        aria-valuetext={`${value} px`}
        onChange={(e) => change(Number(e.target.value))}
      />
    </SizeFace>
  );
}
