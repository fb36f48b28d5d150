import { useEffect, useMemo, useRef } from 'react';
import type { HandSpec } from '../../../contract/document.ts';
import { isEmpty, union, type Box } from '../../../core/raster/raster.ts';
import type { FromPreview, ToPreview } from './preview.worker.ts';

/** Pixels shown in place until the server has laid them on: a canvas over a box of the picture, grown as needed. */
export class Sheet {
  canvas = document.createElement('canvas');
  box: Box = { x: 0, y: 0, width: 0, height: 0 };

  put(box: Box, rgba: Uint8ClampedArray<ArrayBuffer>): void {
    if (isEmpty(box)) return;
    const whole = union(this.box, box);
    if (whole.width !== this.box.width || whole.height !== this.box.height) {
      // Grown in steps, so that a long stroke does not copy it again for every dab.
      const step = 256;
      const x = Math.floor(whole.x / step) * step;
      const y = Math.floor(whole.y / step) * step;
      const next = {
        x,
        y,
        width: Math.ceil((whole.x + whole.width - x) / step) * step,
        height: Math.ceil((whole.y + whole.height - y) / step) * step,
      };
      const larger = document.createElement('canvas');
      larger.width = next.width;
      larger.height = next.height;
      if (!isEmpty(this.box)) larger.getContext('2d')!.drawImage(this.canvas, this.box.x - x, this.box.y - y);
      this.canvas = larger;
      this.box = next;
    }
    this.canvas
      .getContext('2d')!
      .putImageData(new ImageData(rgba, box.width, box.height), box.x - this.box.x, box.y - this.box.y);
  }

  clear(): void {
    this.box = { x: 0, y: 0, width: 0, height: 0 };
    this.canvas = document.createElement('canvas');
  }
}

interface Asked {
  spec: HandSpec;
  part: Box | null;
  strength: number;
  /** the sheet shows only this from now on */
  alone: boolean;
  /** when the pointer moved that led to it, ms */
  moved: number[];
}

export interface Preview {
  sheet: Sheet;
  /** Names the picture and what lies beneath; everything shown so far goes. */
  begin(at: {
    id: string;
    /** source and canvas */
    area: Box;
    layer: string | null;
    repair: string | null;
    /** names the state of the pixels; what was read of the same one is kept */
    stamp: string;
  }): void;
  /** Renders and shows; while it is being rendered only the newest request waits, with the parts of those it replaces. */
  render(spec: HandSpec, options?: { part?: Box; strength?: number; alone?: boolean }): void;
  clear(): void;
  /** Notes when the pointer moved, so that it can be measured how soon that is seen. */
  moved(at: number): void;
  /** The moves noted last changed nothing on the sheet: the next frame shows all there is to see of them. */
  still(): void;
  /** The moves that the sheet shows since this was last asked. */
  seen(): number[];
}

/** A worker that renders repairs as they are being made. `onShown` is called whenever the sheet has changed. */
export function usePreview(onShown: () => void, onFailed: (message: string) => void): Preview {
  const worker = useRef<Worker | null>(null);
  const state = useRef({
    sheet: new Sheet(),
    n: 0,
    since: 0,
    busy: false,
    next: null as Asked | null,
    name: '',
    moved: [] as number[],
    seen: [] as number[],
  });
  const callbacks = useRef({ onShown, onFailed });
  callbacks.current = { onShown, onFailed };

  useEffect(
    () => () => {
      worker.current?.terminate();
      worker.current = null;
    },
    [],
  );

  return useMemo(() => {
    const s = state.current;
    const send = (message: ToPreview) => {
      if (!worker.current) {
        worker.current = new Worker(new URL('./preview.worker.ts', import.meta.url), { type: 'module' });
        worker.current.onmessage = ({ data }: MessageEvent<FromPreview>) => receive(data);
      }
      worker.current.postMessage(message);
    };
    let going: Asked | null = null;
    const go = (asked: Asked) => {
      s.busy = true;
      going = asked;
      send({ type: 'render', n: ++s.n, spec: asked.spec, part: asked.part, strength: asked.strength });
    };
    const receive = (data: FromPreview) => {
      s.busy = false;
      // What was asked for before the sheet was cleared is no longer wanted.
      if (data.n > s.since) {
        if (data.type === 'rendered') {
          if (going?.alone) s.sheet.clear();
          s.seen.push(...(going?.moved ?? []));
          s.sheet.put(data.box, data.rgba);
          callbacks.current.onShown();
        } else callbacks.current.onFailed(data.message);
      }
      if (s.next) {
        const next = s.next;
        s.next = null;
        go(next);
      }
    };
    const clear = () => {
      s.since = s.n;
      s.next = null;
      s.sheet.clear();
      callbacks.current.onShown();
    };
    return {
      sheet: s.sheet,
      begin({ id, area, layer, repair, stamp }) {
        clear();
        const name = [id, layer, repair, stamp].join();
        if (name === s.name) return;
        s.name = name;
        send({ type: 'picture', id, area, layer, repair });
      },
      render(spec, { part, strength = 1, alone: only = false } = {}) {
        const asked: Asked = { spec, part: part ?? null, strength, alone: only, moved: s.moved };
        s.moved = [];
        if (!s.busy) return go(asked);
        const waiting = s.next;
        if (waiting && asked.part && waiting.part && !only) asked.part = union(waiting.part, asked.part);
        if (waiting) asked.moved = [...waiting.moved, ...asked.moved];
        s.next = asked;
      },
      clear,
      moved: (at) => void s.moved.push(at),
      still() {
        s.seen.push(...s.moved);
        s.moved = [];
      },
      seen() {
        const seen = s.seen;
        s.seen = [];
        return seen;
      },
    };
  }, []);
}
