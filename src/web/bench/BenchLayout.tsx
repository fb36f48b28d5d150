import { PanelLeftClose, PanelLeftOpen, PanelRightClose, PanelRightOpen, type LucideIcon } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { Group, Panel, Separator, useDefaultLayout, usePanelRef } from 'react-resizable-panels';
import styled from 'styled-components';
import { theme } from '../theme.ts';
import { Button } from '../ui/controls.tsx';

const Bench = styled.div<{ $whole: boolean }>`
  height: 100%;
  .column {
    height: 100%;
    display: flex;
    flex-direction: column;
    min-height: 0;
    overflow: hidden;
    background: ${theme.sheet};
  }
  .column[hidden] {
    display: none;
  }
  .work {
    height: 100%;
    display: grid;
    grid-template-rows: auto minmax(0, 1fr) auto;
    grid-template-columns: minmax(0, 1fr);
    min-width: 0;
  }
  .picture {
    grid-row: 2;
    min-height: 0;
    display: grid;
    grid-template: minmax(0, 1fr) / minmax(0, 1fr);
  }
  ${({ $whole }) =>
    $whole &&
    `
    [data-separator], .column, .bar { display: none; }
    [data-panel]:not(#picture) { display: none !important; }
  `}
`;
const Bar = styled.div`
  height: 40px;
  display: flex;
  align-items: center;
  gap: 4px;
  padding: 0 4px;
  border-bottom: 1px solid ${theme.rule};
  background: ${theme.paper};
  > div {
    flex: 1;
    min-width: 0;
  }
  > button {
    padding: 3px 6px;
  }
`;
const Edge = styled(Separator)`
  width: 1px;
  background: ${theme.rule};
  outline-offset: -1px;
  &[data-separator='hover'],
  &[data-separator='active'] {
    background: ${theme.accent};
    box-shadow: 0 0 0 1px ${theme.accent};
  }
`;

/** Widths of the columns in px: what they begin with, by the width of the window, and between what they can be drawn. */
const widths = (window: number) =>
  window < 1150
    ? { worklist: 164, side: 228 }
    : window < 1600
      ? { worklist: 184, side: 248 }
      : { worklist: 260, side: 340 };
const LEAST = { worklist: 150, side: 220 };
const MOST = { worklist: 420, side: 520 };

/**
 * A column that can be folded away, drawn wider and narrower, and stays as it was left.
 * @param usual width in px that it unfolds to while it was never drawn
 */
function useFolding(name: string, usual: number) {
  const panel = usePanelRef();
  const [folded, setFolded] = useState(false);
  const kept = `width of ${name} ${usual}`;
  return {
    panel,
    folded,
    toggle: () => {
      const column = panel.current;
      if (column?.isCollapsed()) column.resize(Number(localStorage.getItem(kept)) || usual);
      else column?.collapse();
    },
    onResize: () => {
      const column = panel.current;
      setFolded(column?.isCollapsed() ?? false);
      if (column && !column.isCollapsed()) localStorage.setItem(kept, String(Math.round(column.getSize().inPixels)));
    },
  };
}

type Folding = ReturnType<typeof useFolding>;

function Column(props: { id: keyof typeof LEAST; folding: Folding; begin: number; children: ReactNode }) {
  const { id, folding, begin } = props;
  return (
    <Panel
      id={id}
      panelRef={folding.panel}
      onResize={folding.onResize}
      defaultSize={begin}
      minSize={LEAST[id]}
      maxSize={MOST[id]}
      collapsible
      collapsedSize={0}
      groupResizeBehavior="preserve-pixel-size"
    >
      <div className="column" hidden={folding.folded}>
        {props.children}
      </div>
    </Panel>
  );
}

function FoldButton(props: { of: string; folding: Folding; open: LucideIcon; folded: LucideIcon }) {
  const { of, folding } = props;
  const Icon = folding.folded ? props.folded : props.open;
  return (
    <Button
      kind="quiet"
      aria-label={`${folding.folded ? 'Unfold' : 'Fold'} the ${of}`}
      aria-expanded={!folding.folded}
      onPress={folding.toggle}
    >
      <Icon size={16} aria-hidden />
    </Button>
  );
}

/**
 * The bench: worklist, picture, and what is done about it. The picture keeps its place and size whatever is chosen or done:
 * bars have a fixed height, and only the edges of the columns, drawn by hand, change its width.
 */
export function BenchLayout({
  whole,
  verbs,
  worklist,
  picture,
  line,
  side,
}: {
  /** the picture has the whole window */
  whole: boolean;
  verbs: ReactNode;
  worklist: ReactNode;
  picture: ReactNode;
  /** what stands beneath the picture */
  line: ReactNode;
  side: ReactNode;
}) {
  const [begin] = useState(() => widths(window.innerWidth));
  const kept = useDefaultLayout({
    id: `bench ${begin.side}`,
    storage: localStorage,
    onlySaveAfterUserInteractions: false,
  });
  const left = useFolding('worklist', begin.worklist);
  const right = useFolding('side', begin.side);
  return (
    <Bench $whole={whole}>
      <Group
        orientation="horizontal"
        defaultLayout={kept.defaultLayout}
        onLayoutChanged={kept.onLayoutChanged}
        style={{ height: '100%' }}
      >
        <Column id="worklist" folding={left} begin={begin.worklist}>
          {worklist}
        </Column>
        <Edge aria-label="Width of the worklist" />
        <Panel id="picture" minSize={320}>
          <div className="work">
            <Bar className="bar">
              <FoldButton of="worklist" folding={left} open={PanelLeftClose} folded={PanelLeftOpen} />
              <div>{verbs}</div>
              <FoldButton of="treatment" folding={right} open={PanelRightClose} folded={PanelRightOpen} />
            </Bar>
            <div className="picture">{picture}</div>
            <div className="bar">{line}</div>
          </div>
        </Panel>
        <Edge aria-label="Width of the treatment" />
        <Column id="side" folding={right} begin={begin.side}>
          {side}
        </Column>
      </Group>
    </Bench>
  );
}
