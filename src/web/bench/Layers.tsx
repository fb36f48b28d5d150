import { ArrowDown, ArrowUp, GripVertical } from 'lucide-react';
import { useRef, useState, type ReactNode } from 'react';
import { useDrag, useDrop } from 'react-aria';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import type { Layer } from '../../contract/document.ts';
import type { Edits } from '../lib/edits.ts';
import { plural } from '../lib/format.ts';
import { theme } from '../theme.ts';
import { Button, Toggle } from '../ui/controls.tsx';
import { Slider } from '../ui/sliders.tsx';
import { Section } from './Section.tsx';

const List = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0;
  overflow: auto;
  border-top: 1px solid ${theme.rule};
  ol {
    list-style: none;
    margin: 0;
    padding: 0;
  }
  .group {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 4px;
    padding: 1px 4px 1px 10px;
    background: ${theme.sunk};
    border-bottom: 1px solid ${theme.rule};
  }
  .group h3 {
    overflow-wrap: anywhere;
    line-height: 1.2;
  }
  .group button {
    min-height: 22px;
    font-size: 12px;
    padding: 0 5px;
  }
  .original {
    padding: 5px 10px;
    color: ${theme.quiet};
    font-size: 12px;
    background: ${theme.sunk};
  }
`;
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
function LayerBand(props: BandProps) {
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

const DRAGGED = 'application/x-tersum-layer';

/** What a band is dragged by. */
function Grip({ layer }: { layer: Layer }) {
  const { dragProps } = useDrag({ getItems: () => [{ [DRAGGED]: layer.id }] });
  const { onKeyDown: _a, onKeyUp: _b, ...pointerOnly } = dragProps as Record<string, unknown>;
  return (
    <span {...pointerOnly} className="grip" aria-hidden tabIndex={-1} title={`Drag ${layer.name}`}>
      <GripVertical size={14} />
    </span>
  );
}

/** Where a band may be dropped: it comes to lie where the one beneath the pointer is. */
function DropPlace({ onDropped, children }: { onDropped(id: string): void; children: ReactNode }) {
  const ref = useRef<HTMLLIElement>(null);
  const { dropProps, isDropTarget } = useDrop({
    ref,
    getDropOperation: (types) => (types.has(DRAGGED) ? 'move' : 'cancel'),
    onDrop: ({ items }) => {
      const [item] = items;
      if (item?.kind === 'text') void item.getText(DRAGGED).then(onDropped);
    },
  });
  return (
    <li {...dropProps} ref={ref} style={isDropTarget ? { boxShadow: `inset 0 2px 0 ${theme.accent}` } : undefined}>
      {children}
    </li>
  );
}

/** Layers that lie together under the name of a subject area, topmost first. */
function grouped(layers: readonly Layer[]): Array<{ group: string; layers: Layer[] }> {
  const out: Array<{ group: string; layers: Layer[] }> = [];
  for (const layer of [...layers].reverse()) {
    const group = layer.group ?? '';
    const last = out.at(-1);
    if (last && last.group === group) last.layers.push(layer);
    else out.push({ group, layers: [layer] });
  }
  return out;
}

/** The repair layers as named bands, the topmost first; the original lies beneath them all. */
export function Layers({
  state,
  edits,
  chosen,
  onChoose,
  only,
  onOnly,
}: {
  state: PictureState;
  edits: Edits;
  chosen: string | null;
  onChoose(id: string): void;
  /** the layer that is shown alone */
  only: string | null;
  onOnly(id: string | null): void;
}) {
  const { layers } = state.document;
  return (
    <Section
      title="Repair layers"
      bare
      beside={
        <Button
          kind="quiet"
          aria-label="New layer"
          onPress={() => void edits.edit({ type: 'addLayer', name: `Layer ${layers.length + 1}` })}
        >
          New
        </Button>
      }
    >
      <List>
        {grouped(layers).map(({ group, layers: own }) => (
          <li key={own[0].id}>
            {group && (
              <div className="group">
                <h3>{group}</h3>
                <Button
                  kind="quiet"
                  aria-label={`${own.some((l) => l.visible) ? 'Hide' : 'Show'} all of ${group}`}
                  onPress={() => {
                    const visible = !own.some((l) => l.visible);
                    for (const l of own)
                      if (l.visible !== visible) void edits.edit({ type: 'changeLayer', id: l.id, set: { visible } });
                  }}
                >
                  {own.some((l) => l.visible) ? 'Hide all' : 'Show all'}
                </Button>
              </div>
            )}
            <ol>
              {own.map((layer) => (
                <DropPlace
                  key={layer.id}
                  onDropped={(id) => void edits.edit({ type: 'moveLayer', id, to: layers.indexOf(layer) })}
                >
                  <LayerBand
                    layer={layer}
                    state={state}
                    edits={edits}
                    on={layer.id === chosen}
                    at={layers.indexOf(layer)}
                    last={layers.length - 1}
                    onChoose={() => onChoose(layer.id)}
                    only={layer.id === only}
                    onOnly={(on) => onOnly(on ? layer.id : null)}
                  />
                </DropPlace>
              ))}
            </ol>
          </li>
        ))}
        <li className="original">Original, never written to</li>
      </List>
    </Section>
  );
}
