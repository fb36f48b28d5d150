import OpenSeadragon from 'openseadragon';
import { useEffect, useRef, useState, type RefObject } from 'react';
import type { PictureState } from '../../contract/api.ts';
import type { TileView } from '../../contract/views.ts';
import type { Box } from '../../core/raster/raster.ts';
import { canvasOfState } from '../lib/canvas.ts';
import { stampOf } from '../lib/stamp.ts';
import { useLatest } from '../lib/latest.ts';
import { tileSource } from './tiles.ts';

/** How the close-up is compared: as repaired, as it came, split by a divider, the difference of both, or what was put on alone. */
export type Compare = 'repaired' | 'before' | 'divider' | 'difference' | 'changes';

export interface ViewerHandle {
  viewer: OpenSeadragon.Viewer;
  toImage(x: number, y: number): [number, number];
  toScreen(x: number, y: number): [number, number];
  /** the place in the middle once the view has come to rest: keys pressed quickly add up */
  centre(): [number, number];
  /** screen px for one picture px */
  scale(): number;
  /** how far the sheet is turned, degrees clockwise, −180…180 */
  angle(): number;
  /** turns the sheet about a place of the screen; about the middle where none is given */
  turnTo(angle: number, about?: [number, number]): void;
  /** where picture px lie on the screen: the six numbers of an affine map, as a canvas takes them */
  map(): [number, number, number, number, number, number];
  /**
   * Calls once the pixels of a version are drawn wherever the view is; at once where they are.
   * @returns stops waiting
   */
  whenDrawn(version: string, done: () => void): () => void;
  centreOn(x: number, y: number, scale?: number): void;
  zoomTo(scale: number): void;
  fit(): void;
}

/** Which version of the pixels is drawn, and who waits for one. */
class DrawnVersion {
  private now = '';
  private readonly waiting = new Set<{ version: string; done: () => void }>();

  set(version: string): void {
    this.now = version;
    for (const entry of [...this.waiting]) {
      if (entry.version !== version) continue;
      this.waiting.delete(entry);
      entry.done();
    }
  }

  when(version: string, done: () => void): () => void {
    if (version === this.now) {
      done();
      return () => undefined;
    }
    const entry = { version, done };
    this.waiting.add(entry);
    return () => this.waiting.delete(entry);
  }
}

/** @param canvas px of the base; the viewer's own unit is its width */
function makeHandle(viewer: OpenSeadragon.Viewer, canvas: Box, drawn: DrawnVersion): ViewerHandle {
  const { width } = canvas;
  const point = (x: number, y: number) => new OpenSeadragon.Point((x - canvas.x) / width, (y - canvas.y) / width);
  const place = (p: OpenSeadragon.Point): [number, number] => [p.x * width + canvas.x, p.y * width + canvas.y];
  const { viewport } = viewer;
  const containerWidth = () => viewport.getContainerSize().x;
  const scale = () => (viewport.getZoom(true) * containerWidth()) / width;
  const angle = () => {
    const turned = viewport.getRotation(true) % 360;
    return turned > 180 ? turned - 360 : turned <= -180 ? turned + 360 : turned;
  };
  const toScreen = (x: number, y: number): [number, number] => {
    const p = viewport.pixelFromPoint(point(x, y), true);
    return [p.x, p.y];
  };
  return {
    viewer,
    scale,
    angle,
    turnTo(to, about) {
      const pivot = about && viewport.pointFromPixel(new OpenSeadragon.Point(...about), true);
      viewport.rotateTo(to, pivot, true);
    },
    map() {
      const r = (angle() * Math.PI) / 180;
      const [c, s] = [scale() * Math.cos(r), scale() * Math.sin(r)];
      return [c, s, -s, c, ...toScreen(0, 0)];
    },
    toImage: (x, y) => place(viewport.pointFromPixel(new OpenSeadragon.Point(x, y), true)),
    whenDrawn: (version, done) => drawn.when(version, done),
    centre: () => place(viewport.getCenter(false)),
    toScreen,
    centreOn(x, y, to) {
      viewport.panTo(point(x, y));
      if (to) viewport.zoomTo((to * width) / containerWidth());
    },
    zoomTo: (to) => void viewport.zoomTo((to * width) / containerWidth()),
    fit: () => void viewport.goHome(),
  };
}

/** A view of the picture in `host`, kept up to date with its pixels without flashing. */
export function usePictureViewer(
  host: RefObject<HTMLDivElement | null>,
  state: PictureState | undefined,
  {
    compare = 'repaired',
    divider = 0.5,
    still = false,
    only = null,
  }: {
    compare?: Compare;
    divider?: number;
    still?: boolean;
    /** the layer that is shown alone */
    only?: string | null;
  },
): ViewerHandle | null {
  const [handle, setHandle] = useState<ViewerHandle | null>(null);
  const base = useRef<OpenSeadragon.TiledImage | null>(null);
  const drawn = useRef(new DrawnVersion());
  const over = useRef<{ view: TileView; item: OpenSeadragon.TiledImage } | null>(null);
  const id = state?.picture.id;
  const canvas = state && canvasOfState(state);
  const size = canvas && [id, canvas.x, canvas.y, canvas.width, canvas.height].join();

  const now = useLatest({ state, canvas, still });

  useEffect(() => {
    const { canvas, still } = now.current;
    if (!host.current || !canvas) return;
    const viewer = OpenSeadragon({
      element: host.current,
      prefixUrl: '',
      showNavigationControl: false,
      drawer: 'canvas',
      imageSmoothingEnabled: true,
      maxZoomPixelRatio: 16,
      minZoomImageRatio: 0.9,
      visibilityRatio: 0.4,
      animationTime: still ? 0 : 0.25,
      springStiffness: 12,
      zoomPerScroll: 1.25,
      immediateRender: true,
      // A bar that opens above the picture must not change the zoom one works at.
      preserveImageSizeOnResize: !still,
      tabIndex: -1,
      gestureSettingsMouse: { clickToZoom: false, dblClickToZoom: false, scrollToZoom: !still },
      gestureSettingsTouch: { clickToZoom: false, dblClickToZoom: false, pinchRotate: !still },
      gestureSettingsPen: { clickToZoom: false, dblClickToZoom: false },
      mouseNavEnabled: !still,
      keyboardNavEnabled: false,
    });
    drawn.current = new DrawnVersion();
    const made = makeHandle(viewer, canvas, drawn.current);
    const crisp = () => viewer.drawer?.setImageSmoothingEnabled?.(made.scale() < 1.5);
    viewer.addHandler('zoom', crisp);
    setHandle(made);
    return () => {
      base.current = null;
      over.current = null;
      setHandle(null);
      viewer.destroy();
    };
    // A view is made once a picture and canvas; its pixels are followed below.
  }, [size, host, now]);

  // The repaired picture: a new version is laid above the old one, which goes once the new one is drawn.
  const version = state ? stampOf(state.pixels) : '';
  useEffect(() => {
    const { state } = now.current;
    if (!handle || !state) return;
    let cancelled = false;
    const old = base.current;
    handle.viewer.addTiledImage({
      tileSource: tileSource(state, 'repaired'),
      index: old ? handle.viewer.world.getIndexOfItem(old) + 1 : 0,
      x: 0,
      y: 0,
      width: 1,
      success: (event) => {
        const item = (event as unknown as { item: OpenSeadragon.TiledImage }).item;
        if (cancelled) return void handle.viewer.world.removeItem(item);
        base.current = item;
        const shown = () => {
          if (old && handle.viewer.world.getIndexOfItem(old) >= 0) handle.viewer.world.removeItem(old);
          if (base.current === item) drawn.current.set(version);
        };
        if (item.getFullyLoaded()) shown();
        else item.addOnceHandler('fully-loaded-change', shown);
      },
    });
    return () => {
      cancelled = true;
    };
  }, [handle, version, now]);

  const clip = (item: OpenSeadragon.TiledImage) => {
    if (!canvas || !handle) return;
    if (compare !== 'divider') {
      item.resetCroppingPolygons();
      return item.setClip(null);
    }
    if (!handle.angle()) {
      const [x] = handle.toImage(divider * handle.viewer.viewport.getContainerSize().x, 0);
      item.resetCroppingPolygons();
      return item.setClip(
        new OpenSeadragon.Rect(0, 0, Math.max(1, Math.min(canvas.width, x - canvas.x)), canvas.height),
      );
    }
    // All that lies left of the divider on the screen, however the sheet is turned.
    const { x: across, y: down } = handle.viewer.viewport.getContainerSize();
    const far = 4 * (across + down);
    const corners: Array<[number, number]> = [
      [-far, -far],
      [divider * across, -far],
      [divider * across, far],
      [-far, far],
    ];
    item.setClip(null);
    item.setCroppingPolygons([
      corners.map(([u, v]) => {
        const [x, y] = handle.toImage(u, v);
        return new OpenSeadragon.Point(x - canvas.x, y - canvas.y);
      }),
    ]);
  };
  const clipping = useLatest(clip);

  // What it is compared with lies above, whole or clipped at the divider.
  const wanted: TileView | null =
    compare === 'before' || compare === 'divider'
      ? 'original'
      : compare === 'difference' || compare === 'changes'
        ? compare
        : only
          ? `only-${only}`
          : null;
  const overVersion = wanted && wanted !== 'original' ? version : '';
  useEffect(() => {
    const { state } = now.current;
    if (!handle || !state) return;
    const { world } = handle.viewer;
    if (over.current) {
      world.removeItem(over.current.item);
      over.current = null;
    }
    if (!wanted) return;
    let cancelled = false;
    handle.viewer.addTiledImage({
      tileSource: tileSource(state, wanted),
      x: 0,
      y: 0,
      width: 1,
      success: (event) => {
        const item = (event as unknown as { item: OpenSeadragon.TiledImage }).item;
        if (cancelled) return void world.removeItem(item);
        over.current = { view: wanted, item };
        clipping.current(item);
      },
    });
    return () => {
      cancelled = true;
    };
  }, [handle, wanted, overVersion, now, clipping]);

  useEffect(() => {
    if (!handle) return;
    const again = () => over.current && clip(over.current.item);
    again();
    handle.viewer.addHandler('viewport-change', again);
    return () => handle.viewer.removeHandler('viewport-change', again);
  });
  return handle;
}
