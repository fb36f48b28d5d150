import styled from 'styled-components';
import type { Pose } from '../../../core/repair/hand/donor.ts';
import { theme } from '../../theme.ts';
import { Select } from '../../ui/controls.tsx';

/** A figure to type, with its unit. */
export const Figure = styled.label`
  display: inline-flex;
  gap: 4px;
  align-items: center;
  white-space: nowrap;
  font-size: 12.5px;
  input {
    width: 54px;
    font: 500 12.5px ${theme.figures};
    padding: 2px 3px;
    border: 1px solid ${theme.ruleStrong};
    border-radius: 3px;
    background: ${theme.sheet};
  }
`;
const Fields = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 5px 10px;
  align-items: center;
`;

/** Turn, size and mirroring of a donor or a piece, as figures. */
export function PoseFields({ pose, onChange }: { pose: Pose; onChange(pose: Pose): void }) {
  return (
    <Fields>
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
        <option value="across">mirrored, left to right</option>
        <option value="down">mirrored, top to bottom</option>
      </Select>
    </Fields>
  );
}
