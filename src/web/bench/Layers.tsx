import { ArrowDown, ArrowUp } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import type { Layer } from '../../contract/document.ts';
import type { Edits } from '../lib/edits.ts';
import { theme } from '../theme.ts';
import { Button, Slider } from '../ui/controls.tsx';

const Box = styled.section`
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
  header {
    display: flex;
    align-items: center;
    padding: 7px 6px 5px 12px;
    border-top: 1px solid ${theme.rule};
    border-bottom: 1px solid ${theme.rule};
  }
  header button {
    margin-left: auto;
  }
  ol {
    list-style: none;
    margin: 0;
    padding: 0;
    overflow: auto;
    flex: 1;
  }
  .original {
    padding: 8px 12px;
    color: ${theme.quiet};
    font-size: 13px;
    border-bottom: 1px solid ${theme.rule};
    background: ${theme.sunk};
  }
`;
const Band = styled.li<{ $on: boolean; $hidden: boolean }>`
  border-bottom: 1px solid ${theme.rule};
  padding: 7px 10px 7px 9px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 5px;
  border-left: 3px solid ${({ $on }) => ($on ? theme.accent : 'transparent')};
  background: ${({ $hidden }) => ($hidden ? theme.paper : theme.sheet)};
  .line {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .line input {
    flex: 1;
    min-width: 0;
    border: 1px solid transparent;
    background: none;
    padding: 2px 4px;
    font-weight: 600;
    ${({ $hidden }) => $hidden && `color: ${theme.quiet}; text-decoration: line-through;`}
  }
  .line input:hover,
  .line input:focus {
    border-color: ${theme.rule};
    background: ${theme.sheet};
  }
  .row {
    display: flex;
    gap: 4px;
    align-items: center;
    font-size: 12.5px;
  }
  .row > span {
    margin-left: auto;
  }
  .row button,
  .line button {
    min-height: 24px;
    padding: 1px 6px;
    font-size: 12.5px;
  }
`;

function LayerBand({
  layer,
  state,
  edits,
  on,
  at,
  last,
  onChoose,
}: {
  layer: Layer;
  state: PictureState;
  edits: Edits;
  on: boolean;
  at: number;
  last: number;
  onChoose(): void;
}) {
  const own = state.document.repairs.filter((r) => r.layerId === layer.id);
  const [opacity, setOpacity] = useState<number | null>(null);
  const rename = (name: string) => {
    const clean = name.trim();
    if (clean && clean !== layer.name) void edits.edit({ type: 'changeLayer', id: layer.id, set: { name: clean } });
  };
  return (
    <Band $on={on} $hidden={!layer.visible} aria-label={`Layer ${layer.name}`}>
      <div className="line">
        <input
          key={layer.name}
          aria-label={`Name of layer ${layer.name}`}
          defaultValue={layer.name}
          maxLength={120}
          onFocus={onChoose}
          onBlur={(e) => rename(e.target.value)}
          onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
        />
        <Button
          kind="quiet"
          aria-label={`Move ${layer.name} up`}
          isDisabled={at === last}
          onPress={() => void edits.edit({ type: 'moveLayer', id: layer.id, to: at + 1 })}
        >
          <ArrowUp size={14} aria-hidden />
        </Button>
        <Button
          kind="quiet"
          aria-label={`Move ${layer.name} down`}
          isDisabled={at === 0}
          onPress={() => void edits.edit({ type: 'moveLayer', id: layer.id, to: at - 1 })}
        >
          <ArrowDown size={14} aria-hidden />
        </Button>
      </div>
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
        <Button
          aria-label={`${layer.visible ? 'Hide' : 'Show'} layer ${layer.name}`}
          onPress={() => void edits.edit({ type: 'changeLayer', id: layer.id, set: { visible: !layer.visible } })}
        >
          {layer.visible ? 'Hide' : 'Show'}
        </Button>
        <Button
          kind="quiet"
          aria-label={`Delete layer ${layer.name}`}
          onPress={() => void edits.edit({ type: 'removeLayer', id: layer.id })}
        >
          Delete
        </Button>
        <span className="quiet">
          {own.length} {own.length === 1 ? 'repair' : 'repairs'}
        </span>
      </div>
    </Band>
  );
}

/** The repair layers as named bands, the topmost first; the original lies beneath them all. */
export function Layers({
  state,
  edits,
  chosen,
  onChoose,
}: {
  state: PictureState;
  edits: Edits;
  chosen: string | null;
  onChoose(id: string): void;
}) {
  const { layers } = state.document;
  return (
    <Box aria-label="Repair layers">
      <header>
        <h2>Repair layers</h2>
        <Button kind="quiet" onPress={() => void edits.edit({ type: 'addLayer', name: `Layer ${layers.length + 1}` })}>
          New layer
        </Button>
      </header>
      <ol>
        {[...layers].reverse().map((layer) => (
          <LayerBand
            key={layer.id}
            layer={layer}
            state={state}
            edits={edits}
            on={layer.id === chosen}
            at={layers.indexOf(layer)}
            last={layers.length - 1}
            onChoose={() => onChoose(layer.id)}
          />
        ))}
        <li className="original">The original, never written to</li>
      </ol>
    </Box>
  );
}
