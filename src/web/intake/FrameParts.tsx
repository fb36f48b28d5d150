import { useRef, useState } from 'react';
import styled from 'styled-components';
import { VIEWS } from '../../contract/addresses.ts';
import { addressOf } from '../../contract/endpoint.ts';
import type { Job } from '../../contract/studio.ts';
import type { FrameMarks } from '../../core/join/lay.ts';
import type { Point, Shape } from '../../core/mask/shapes.ts';
import { boxOf, intersect, isEmpty } from '../../core/raster/raster.ts';
import { cornersOf, useTwoPlaces } from '../lib/two-places.ts';
import { theme } from '../theme.ts';
import { Button, Strip, Toggle } from '../ui/controls.tsx';

const Sheet = styled.svg`
  display: block;
  width: 100%;
  max-height: 420px;
  background: #808080;
  cursor: crosshair;
  touch-action: none;
`;

const COLOURS = { keep: theme.accent, leave: theme.bad } as const;
const WORDS = {
  keep: 'Draw a box over what is to be taken from this frame, such as the subject; or set two corners by arrows and Space.',
  leave:
    'Draw a box over what another frame shows better, such as a dirty backdrop; or set two corners by arrows and Space.',
};

/** Parts of one frame that are to come from it, or from another. */
export function FrameParts(props: {
  picture: Job['pictures'][number];
  marks: FrameMarks;
  onChange(marks: FrameMarks): void;
}) {
  const { picture, marks, onChange } = props;
  const [which, setWhich] = useState<keyof FrameMarks>('keep');
  const svg = useRef<SVGSVGElement>(null);
  const source = boxOf(picture.facts);
  const long = Math.max(source.width, source.height);
  const line = long / 300;
  const onDrawn = (from: Point, to: Point) => {
    const { x, y, width, height } = cornersOf(from, to);
    const drawn = { x: Math.round(x), y: Math.round(y), width: Math.round(width), height: Math.round(height) };
    const box = intersect(drawn, source);
    if (isEmpty(box)) return;
    const shape: Shape = { op: 'add', kind: 'box', ...box };
    onChange({ ...marks, [which]: [...marks[which], shape] });
  };
  const { ends, cross, handlers } = useTwoPlaces(svg, source, long, 3 * line, true, onDrawn, true);
  return (
    <div style={{ display: 'grid', gap: 8 }}>
      <div style={{ display: 'flex', gap: 10, alignItems: 'center', flexWrap: 'wrap' }}>
        <Strip
          aria-label={`Parts of ${picture.name}`}
          selectionMode="single"
          disallowEmptySelection
          selectedKeys={[which]}
          onSelectionChange={(keys) => setWhich([...keys][0] as keyof FrameMarks)}
        >
          <Toggle id="keep">Take from it</Toggle>
          <Toggle id="leave">Leave out</Toggle>
        </Strip>
        {marks.keep.length + marks.leave.length > 0 && (
          <Button kind="quiet" onPress={() => onChange({ keep: [], leave: [] })}>
            Clear its parts
          </Button>
        )}
        <span className="quiet">{WORDS[which]}</span>
      </div>
      <Sheet
        ref={svg}
        viewBox={`0 0 ${source.width} ${source.height}`}
        role="application"
        tabIndex={0}
        aria-label={`${picture.name}: ${WORDS[which]}`}
        {...handlers}
      >
        <image href={addressOf(VIEWS.closeUp, { id: picture.id }, { side: 1024, view: 'original' })} {...source} />
        {(['keep', 'leave'] as const).flatMap((kind) =>
          marks[kind].map(
            (s, n) =>
              s.kind === 'box' && (
                <rect
                  key={`${kind} ${n}`}
                  x={s.x}
                  y={s.y}
                  width={s.width}
                  height={s.height}
                  fill={COLOURS[kind]}
                  fillOpacity={0.15}
                  stroke={COLOURS[kind]}
                  strokeWidth={line}
                />
              ),
          ),
        )}
        {ends && <rect {...cornersOf(...ends)} fill="none" stroke={COLOURS[which]} strokeWidth={line} />}
        {cross && !ends && (
          <path
            d={`M${cross[0] - 8 * line} ${cross[1]}h${16 * line}M${cross[0]} ${cross[1] - 8 * line}v${16 * line}`}
            stroke="#fff"
            strokeWidth={line}
          />
        )}
      </Sheet>
    </div>
  );
}
