import { GripVertical } from 'lucide-react';
import { useRef, type ReactNode } from 'react';
import { useDrag, useDrop } from 'react-aria';
import type { Layer } from '../../contract/document.ts';
import { theme } from '../theme.ts';

const DRAGGED = 'application/x-tersum-layer';

/** What a band is dragged by. */
export function Grip({ layer }: { layer: Layer }) {
  const { dragProps } = useDrag({ getItems: () => [{ [DRAGGED]: layer.id }] });
  const { onKeyDown: _a, onKeyUp: _b, ...pointerOnly } = dragProps as Record<string, unknown>;
  return (
    <span {...pointerOnly} className="grip" aria-hidden tabIndex={-1} title={`Drag ${layer.name}`}>
      <GripVertical size={14} />
    </span>
  );
}

/** Where a band may be dropped: it comes to lie where the one beneath the pointer is. */
export function DropPlace({ onDropped, children }: { onDropped(id: string): void; children: ReactNode }) {
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
