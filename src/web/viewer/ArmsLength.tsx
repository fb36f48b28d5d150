import { useRef, type PointerEvent } from 'react';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import { canvasOfState } from '../lib/canvas.ts';
import { theme } from '../theme.ts';
import type { View } from './CloseUp.tsx';
import { usePictureViewer, type Compare } from './usePictureViewer.ts';

const Frame = styled.div<{ $surround: string; $ratio: number }>`
  position: relative;
  overflow: hidden;
  background: ${({ $surround }) => $surround};
  aspect-ratio: ${({ $ratio }) => $ratio};
  max-height: 240px;
  width: 100%;
  touch-action: none;
  cursor: crosshair;
  .osd {
    position: absolute;
    inset: 0;
    pointer-events: none;
  }
  .view {
    position: absolute;
    border: 1.5px solid #fff;
    outline: 1px solid ${theme.ink};
    pointer-events: none;
  }
`;

/** The whole picture as it will be seen; a click moves the close-up there. */
export function ArmsLength(props: {
  state: PictureState;
  surround: string;
  compare: Compare;
  only: string | null;
  view: View | null;
  onGo(x: number, y: number): void;
}) {
  const { state } = props;
  const { x: left, y: top, width, height } = canvasOfState(state);
  const view = props.view && { ...props.view, x: props.view.x - left, y: props.view.y - top };
  const host = useRef<HTMLDivElement>(null);
  usePictureViewer(host, state, {
    compare: props.compare === 'divider' ? 'repaired' : props.compare,
    only: props.only,
    still: true,
  });
  const go = (e: PointerEvent<HTMLDivElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    const scale = Math.min(box.width / width, box.height / height);
    const [besides, above] = [(box.width - width * scale) / 2, (box.height - height * scale) / 2];
    props.onGo(left + (e.clientX - box.left - besides) / scale, top + (e.clientY - box.top - above) / scale);
  };
  const part = (v: number, of: number) => `${(v / of) * 100}%`;
  const share = (v: number, of: number) => `${Math.max(0, Math.min(100, (v / of) * 100))}%`;
  return (
    <Frame
      $surround={props.surround}
      $ratio={width / height}
      role="img"
      aria-label="The whole picture at arm’s length"
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        go(e);
      }}
      onPointerMove={(e) => e.buttons && go(e)}
    >
      <div ref={host} className="osd" />
      {view && (view.angle !== 0 || view.width < width || view.height < height) && (
        <div
          className="view"
          style={{
            ...(view.angle
              ? {
                  left: part(view.x, width),
                  top: part(view.y, height),
                  width: part(view.width, width),
                  height: part(view.height, height),
                  transform: `rotate(${-view.angle}deg)`,
                }
              : {
                  left: share(view.x, width),
                  top: share(view.y, height),
                  width: share(Math.min(width, view.x + view.width) - Math.max(0, view.x), width),
                  height: share(Math.min(height, view.y + view.height) - Math.max(0, view.y), height),
                }),
          }}
        />
      )}
    </Frame>
  );
}
