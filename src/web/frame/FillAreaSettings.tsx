import { Button, Toggle } from '../ui/controls.tsx';
import { Settings } from './SubjectSettings.tsx';
import { FILL_AREAS, type FillArea } from './useFillAreas.ts';
import type { Framed } from './useFraming.ts';

/** The areas and lines for a fill, by their names. */
export const FILL_AREA_NAMES: Record<FillArea, string> = {
  donor: 'Donor area',
  barred: 'Barred area',
  guide: 'Guide',
};

/** Where the fill of what is added may take from, where not, and which edges go on in it. */
export function FillAreaSettings({ framed }: { framed: Framed }) {
  const { areas, ways, draws, setDraws } = framed;
  if (!ways.extend.set.canvas && !areas.count) return null;
  return (
    <Settings aria-labelledby="frame-fill">
      <h2 id="frame-fill">Filling</h2>
      <div className="row" style={{ gap: 4 }}>
        {FILL_AREAS.map((area) => (
          <Toggle key={area} isSelected={draws === area} onChange={(on) => setDraws(on ? area : null)}>
            {FILL_AREA_NAMES[area]}
          </Toggle>
        ))}
        {areas.count > 0 && (
          <Button kind="quiet" onPress={areas.clear}>
            Clear
          </Button>
        )}
      </div>
    </Settings>
  );
}
