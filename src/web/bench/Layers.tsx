import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import type { Layer } from '../../contract/document.ts';
import type { Edits } from '../lib/edits.ts';
import { theme } from '../theme.ts';
import { Button } from '../ui/controls.tsx';
import { DropPlace } from './layer-drag.tsx';
import { LayerBand } from './LayerBand.tsx';
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
