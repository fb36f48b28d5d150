/** How a job's pictures are delivered: the long side of the print or screen in mm. */
export interface DeliverySize {
  longSideMm: number;
}

/** Millimetres at delivery for a length in picture px. */
export function atDelivery(px: number, pictureLongSidePx: number, delivery: DeliverySize): number {
  return (px * delivery.longSideMm) / pictureLongSidePx;
}

/** Print size in mm for a number of px at a resolution in px per inch (25.4 mm to the inch). */
export const printMm = (px: number, ppi: number): number => (px / ppi) * 25.4;
