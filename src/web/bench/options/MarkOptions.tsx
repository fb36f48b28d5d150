import { Button, Strip, Toggle } from '../../ui/controls.tsx';
import { SizeSlider } from '../../ui/sliders.tsx';
import { DRAWN_BY, isArea, isTakenFrom, SHAPES, type AreaMode, type Into } from '../store.ts';
import { useBench } from '../useBench.ts';
import type { ShapeTool } from '../../viewer/draft-shape.ts';

/** Shape that is drawn, its size, and a way to end it. */
function ShapeOptions() {
  const { mode, marking, size, setSize, pickShape, draft } = useBench();
  const { tool } = marking;
  const own = DRAWN_BY[mode];
  const shapes = SHAPES.filter((s) => mode === 'mark' || (own ? s.id === own : s.id !== 'strand'));
  return (
    <>
      {shapes.length > 1 && (
        <Strip
          aria-label="Shape"
          className="strip"
          selectionMode="single"
          disallowEmptySelection
          selectedKeys={[tool!]}
          onSelectionChange={(k) => pickShape([...k][0] as ShapeTool)}
        >
          {shapes.map((s) => (
            <Toggle key={s.id} id={s.id} style={{ paddingInline: 2 }} aria-keyshortcuts={s.key}>
              {s.name}
            </Toggle>
          ))}
        </Strip>
      )}
      {(tool === 'brush' || (tool === 'strand' && mode !== 'edges')) && (
        <SizeSlider label={tool === 'strand' ? 'Width' : 'Size'} value={size} onChange={setSize} />
      )}
      {draft.length > 0 && (
        <Button kind="main" onPress={marking.finish}>
          Finish
        </Button>
      )}
    </>
  );
}

/** Where a mark goes, or what is drawn for a fill to heed. */
function IntoStrips() {
  const { mode, into, markInto, pickVerb, faults } = useBench();
  const one = faults.length === 1;
  return (
    <>
      <Strip
        aria-label="Into"
        className="strip"
        selectionMode="single"
        disallowEmptySelection
        selectedKeys={mode === 'mark' ? [into] : []}
        onSelectionChange={(k) => markInto([...k][0] as Into)}
      >
        <Toggle id="new" style={{ paddingInline: 2 }}>
          New fault
        </Toggle>
        <Toggle id="add" style={{ paddingInline: 2 }} isDisabled={!one}>
          Add to it
        </Toggle>
        <Toggle id="take" style={{ paddingInline: 2 }} isDisabled={!one}>
          Take from it
        </Toggle>
      </Strip>
      <Strip
        aria-label="For the next fill"
        style={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 4 }}
        selectionMode="single"
        selectedKeys={isArea(mode) ? [mode] : []}
        onSelectionChange={(k) => pickVerb(([...k][0] as AreaMode | undefined) ?? 'mark')}
      >
        {AREAS.map(([id, name]) => (
          <Toggle key={id} id={id} style={{ borderRadius: 3, margin: 0 }} isDisabled={!faults.length}>
            {name}
          </Toggle>
        ))}
      </Strip>
    </>
  );
}

const AREAS: ReadonlyArray<[AreaMode, string]> = [
  ['donor', 'Donor area'],
  ['barred', 'Barred area'],
  ['edges', 'Edge runs on'],
  ['grounds', 'Ground reaches'],
];

export function MarkOptions() {
  return (
    <>
      <ShapeOptions />
      <IntoStrips />
    </>
  );
}

/** What is painted for the next fill to heed. */
export function AreaOptions() {
  const { mode, areas, clearArea, into, setInto } = useBench();
  return (
    <>
      <ShapeOptions />
      {isTakenFrom(mode) && areas[mode].length > 0 && (
        <Strip
          aria-label="What a stroke does"
          className="strip"
          selectionMode="single"
          disallowEmptySelection
          selectedKeys={[into === 'take' ? 'take' : 'add']}
          onSelectionChange={(k) => setInto([...k][0] as Into)}
        >
          <Toggle id="add">Add to the area</Toggle>
          <Toggle id="take">Take from the area</Toggle>
        </Strip>
      )}
      <IntoStrips />
      {isArea(mode) && areas[mode].length > 0 && <Button onPress={() => clearArea(mode)}>Clear</Button>}
    </>
  );
}

export function TraceOptions() {
  const { traced, edits, faults } = useBench();
  return (
    <Button isDisabled={!traced} onPress={() => void edits.mesh(faults.map((f) => f.id))}>
      Complete the mesh
    </Button>
  );
}
