import { ArrowDown, ArrowUp } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import type { Layer } from '../../contract/document.ts';
import type { Edits } from '../lib/edits.ts';
import { plural } from '../lib/format.ts';
import { theme } from '../theme.ts';
import { Button, Toggle } from '../ui/controls.tsx';
import { Slider } from '../ui/sliders.tsx';
import { Grip } from './layer-drag.tsx';

const Band = styled.div<{ $on: boolean; $hidden: boolean }>`
  border-bottom: 1px solid ${theme.rule};
  border-left: 3px solid ${({ $on }) => ($on ? theme.accent : 'transparent')};
  padding: 2px 5px 2px 4px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 4px;
  background: ${({ $hidden }) => ($hidden ? theme.paper : theme.sheet)};
  .line {
    display: flex;
    gap: 3px;
    align-items: center;
    min-height: 28px;
  }
  .line input {
    flex: 1;
    min-width: 0;
    border: 1px solid transparent;
    background: none;
    padding: 1px 3px;
    font-size: 13px;
    font-weight: 600;
    text-overflow: ellipsis;
    ${({ $hidden }) => $hidden && `color: ${theme.quiet}; text-decoration: line-through;`}
  }
  .line input:hover,
  .line input:focus {
    border-color: ${theme.rule};
    background: ${theme.sheet};
  }
  .line .mono {
    font-size: 11.5px;
    color: ${theme.quiet};
  }
  .grip {
    cursor: grab;
    color: ${theme.quiet};
    line-height: 0;
    margin-right: -2px;
  }
  .more {
    display: grid;
    gap: 4px;
    padding: 0 4px 5px;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    align-items: center;
    font-size: 12px;
  }
  .row input {
    flex: 1;
    min-width: 0;
    border: 1px solid ${theme.rule};
    padding: 1px 4px;
    font-size: 12px;
  }
  .row button,
  .line button {
    min-height: 22px;
    padding: 0 5px;
    font-size: 12px;
  }
`;

interface BandProps {
  layer: Layer;
  state: PictureState;
  edits: Edits;
  on: boolean;
  /** its place from the bottom, and that of the topmost one */
  at: number;
  last: number;
  onChoose(): void;
  only: boolean;
  onOnly(on: boolean): void;
}

/** A layer in one line; what can be set about it stands beneath when it is chosen. */
export function LayerBand(props: BandProps) {
  const { layer, state, edits, on, onChoose } = props;
  const own = state.document.repairs.filter((r) => r.layerId === layer.id);
  const rename = (name: string) => {
    const clean = name.trim();
    if (clean && clean !== layer.name) void edits.edit({ type: 'changeLayer', id: layer.id, set: { name: clean } });
  };
  return (
    <Band $on={on} $hidden={!layer.visible} role="group" aria-label={`Layer ${layer.name}`} onClick={onChoose}>
      <div className="line">
        <Grip layer={layer} />
        <input
          key={layer.name}
          aria-label={`Name of layer ${layer.name}`}
          title={layer.name}
          defaultValue={layer.name}
          maxLength={120}
          onFocus={onChoose}
          onBlur={(e) => rename(e.target.value)}
          onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
        />
        <span className="mono" title={plural(own.length, 'repair')}>
          {own.length}
        </span>
        <Button
          kind="quiet"
          aria-label={`${layer.visible ? 'Hide' : 'Show'} layer ${layer.name}`}
          onPress={() => void edits.edit({ type: 'changeLayer', id: layer.id, set: { visible: !layer.visible } })}
        >
          {layer.visible ? 'Hide' : 'Show'}
        </Button>
      </div>
      {on && <LayerSettings {...props} />}
    </Band>
  );
}

/** Opacity, order and what else can be done with the chosen layer. */
function LayerSettings({ layer, edits, at, last, only, onOnly }: BandProps) {
  const [opacity, setOpacity] = useState<number | null>(null);
  return (
    <div className="more">
      <Slider
        label="Opacity"
        unit="%"
        min={0}
        max={100}
        value={Math.round((opacity ?? layer.opacity) * 100)}
        onChange={(v) => setOpacity(v / 100)}
        onChangeEnd={(v) =>
          void edits.edit({ type: 'changeLayer', id: layer.id, set: { opacity: v / 100 } }).then(() => setOpacity(null))
        }
      />
      <div className="row">
        <Toggle aria-label={`Only layer ${layer.name}`} isSelected={only} onChange={onOnly}>
          Only this
        </Toggle>
        <Button
          aria-label={`Move ${layer.name} up`}
          isDisabled={at === last}
          onPress={() => void edits.edit({ type: 'moveLayer', id: layer.id, to: at + 1 })}
        >
          <ArrowUp size={14} aria-hidden />
        </Button>
        <Button
          aria-label={`Move ${layer.name} down`}
          isDisabled={at === 0}
          onPress={() => void edits.edit({ type: 'moveLayer', id: layer.id, to: at - 1 })}
        >
          <ArrowDown size={14} aria-hidden />
        </Button>
        <Button
          kind="quiet"
          aria-label={`Delete layer ${layer.name}`}
          onPress={() => void edits.edit({ type: 'removeLayer', id: layer.id })}
        >
          Delete
        </Button>
        <Button
          aria-label={`Duplicate layer ${layer.name}`}
          onPress={() => void edits.edit({ type: 'duplicateLayer', id: layer.id })}
        >
          Duplicate
        </Button>
        <Button
          aria-label={`Merge layer ${layer.name} into the one beneath`}
          isDisabled={at === 0}
          onPress={() => void edits.edit({ type: 'mergeLayer', id: layer.id })}
        >
          Merge down
        </Button>
        {(layer.reveal?.length ?? 0) > 0 && (
          <Button
            aria-label={`Show all of layer ${layer.name}`}
            onPress={() => void edits.edit({ type: 'changeLayer', id: layer.id, set: { reveal: [] } })}
          >
            Show all of it
          </Button>
        )}
      </div>
      <label className="row">
        Group
        <input
          key={layer.group}
          aria-label={`Group of layer ${layer.name}`}
          placeholder="subject area"
          defaultValue={layer.group ?? ''}
          maxLength={60}
          onBlur={(e) => {
            const group = e.target.value.trim();
            if (group !== (layer.group ?? '')) void edits.edit({ type: 'changeLayer', id: layer.id, set: { group } });
          }}
          onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
        />
      </label>
    </div>
  );
}
