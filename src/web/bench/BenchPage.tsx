import { Redo2, Undo2 } from 'lucide-react';
import { useParams } from 'react-router';
import styled from 'styled-components';
import { SURROUNDS, theme, type Surround } from '../theme.ts';
import { Button, Select, Strip, Toggle } from '../ui/controls.tsx';
import { Column, Shell, StageBar } from '../ui/page.tsx';
import { ArmsLength } from '../viewer/ArmsLength.tsx';
import { CloseUp } from '../viewer/CloseUp.tsx';
import { Dial } from '../viewer/Dial.tsx';
import type { Compare } from '../viewer/usePictureViewer.ts';
import { Worklist } from '../worklist/Worklist.tsx';
import { BenchLayout } from './BenchLayout.tsx';
import { HandLayer } from './hand/HandLayer.tsx';
import { HintLine } from './HintLine.tsx';
import { Layers } from './Layers.tsx';
import { OptionsSection } from './options/OptionsSection.tsx';
import { Rest } from './Rest.tsx';
import { ShortcutList } from './ShortcutList.tsx';
import { NextStep } from './treatment/NextStep.tsx';
import { TreatmentSection } from './treatment/TreatmentSection.tsx';
import { BenchContext, useBench, useBenchOf, type Bench } from './useBench.ts';
import { useCommands } from './useCommands.ts';
import { VerbRow } from './VerbRow.tsx';

export default function BenchPage() {
  const { pictureId = '' } = useParams();
  return <OpenedBench key={pictureId} pictureId={pictureId} />;
}

function OpenedBench({ pictureId }: { pictureId: string }) {
  const bench = useBenchOf(pictureId);
  useCommands(bench);
  if (!bench.state) return <Opening error={bench.error} />;
  const { state, clock, edits, selected, select } = bench;
  return (
    <BenchContext value={bench as Bench}>
      <Shell>
        {!bench.whole && <Bar />}
        <main style={{ overflow: 'hidden' }}>
          <h1 className="visually-hidden">Bench: {state.picture.name}</h1>
          <BenchLayout
            whole={bench.whole}
            verbs={<VerbRow />}
            worklist={
              <>
                <Worklist
                  state={state}
                  viewing={bench.viewing}
                  order={bench.order}
                  onOrder={bench.setOrder}
                  shown={bench.shown}
                  onShown={bench.setShown}
                  clock={clock}
                  selected={selected}
                  onSelect={select}
                />
                <Layers
                  state={state}
                  edits={edits}
                  chosen={bench.layerId}
                  onChoose={bench.chooseLayer}
                  only={bench.onlyLayer}
                  onOnly={bench.showOnly}
                />
              </>
            }
            picture={<Picture />}
            line={<HintLine />}
            side={
              <>
                <Overview />
                <OptionsSection />
                <TreatmentSection />
                <NextStep />
              </>
            }
          />
        </main>
        {clock.tired && <Rest onRested={clock.rested} />}
        <ShortcutList isOpen={bench.help} onClose={() => bench.showHelp(false)} />
      </Shell>
    </BenchContext>
  );
}

function Opening({ error }: { error: Error | undefined }) {
  return (
    <Shell>
      <StageBar />
      <main>
        <Column>
          {error ? (
            <>
              <h1>The picture could not be opened</h1>
              <p role="alert">{error.message}</p>
            </>
          ) : (
            <p role="status">Opening the picture…</p>
          )}
        </Column>
      </main>
    </Shell>
  );
}

const Saved = styled.span<{ $failed: boolean }>`
  color: ${({ $failed }) => ($failed ? theme.bad : theme.quiet)};
  min-width: 60px;
  text-align: right;
`;

/** The picture's name, how near it is looked at, how saving stands, undo and redo. */
function Bar() {
  const { state, pictureId, navigation, faults, fault, edits, showHelp } = useBench();
  const { view, handle, zoomTo } = navigation;
  const saved = {
    saved: 'Saved',
    saving: 'Saving…',
    failed: `${edits.waiting} not saved yet, trying again`,
  }[edits.state];
  return (
    <StageBar place={{ jobId: state.picture.jobId, pictureId }}>
      <span className="title">{state.picture.name}</span>
      <Select
        aria-label="Zoom"
        value=""
        style={{ width: 74 }}
        onChange={(e) =>
          e.target.value === 'fit'
            ? handle.current?.fit()
            : zoomTo(Number(e.target.value), faults.length === 1 ? fault : undefined)
        }
      >
        <option value="" disabled>
          {view ? `${Math.round(view.scale * 100)} %` : 'Zoom'}
        </option>
        <option value="fit">whole</option>
        {[0.5, 1, 2, 4, 8, 16].map((z) => (
          <option key={z} value={z}>
            {z * 100} %
          </option>
        ))}
      </Select>
      <Saved $failed={edits.state === 'failed'} role="status">
        {saved}
      </Saved>
      <Button
        kind="quiet"
        aria-label={state.undo ? `Undo: ${state.undo}` : 'Nothing to undo'}
        isDisabled={!state.undo}
        onPress={() => void edits.step('undo')}
      >
        <Undo2 size={16} aria-hidden /> Undo
      </Button>
      <Button
        kind="quiet"
        aria-label={state.redo ? `Redo: ${state.redo}` : 'Nothing to redo'}
        isDisabled={!state.redo}
        onPress={() => void edits.step('redo')}
      >
        <Redo2 size={16} aria-hidden /> Redo
      </Button>
      <Button kind="quiet" aria-label="Keys at the bench" onPress={() => showHelp(true)}>
        ?
      </Button>
    </StageBar>
  );
}

const Whole = styled.div`
  position: relative;
  min-width: 0;
  min-height: 0;
  display: grid;
  grid-template: minmax(0, 1fr) / minmax(0, 1fr);
  > button {
    position: absolute;
    right: 10px;
    top: 10px;
  }
`;

/** The close-up with everything that is drawn on it. */
function Picture() {
  const bench = useBench();
  const { state, marking, navigation, hand, mode, byKeys, proposal } = bench;
  const markers = bench.markers && !bench.held;
  return (
    <Whole>
      <CloseUp
        state={state}
        surround={SURROUNDS[bench.surround]}
        compare={bench.held ? 'before' : bench.compare}
        only={bench.onlyLayer}
        divider={bench.divider}
        onDivider={bench.moveDivider}
        markers={markers}
        hatched={marking.hatched}
        preview={bench.preview}
        tool={marking.tool}
        size={bench.size}
        onShape={marking.onShape}
        onPick={marking.onPick}
        onHandle={navigation.onHandle}
        onView={navigation.setView}
        draft={bench.draft}
        setDraft={bench.setDraft}
        keyboardCursor={byKeys && marking.tool !== null}
        twoPoints={mode === 'trace'}
      >
        <HandLayer
          state={state}
          handle={navigation.viewer}
          hand={hand}
          donors={proposal?.donors ?? []}
          markers={markers}
          keyboardCursor={byKeys && hand.mode !== null}
          donorHeld={bench.donorHeld}
          donorClicked={bench.donorClicked}
          pointerAt={bench.pointerAt}
        />
      </CloseUp>
      {bench.whole && <Button onPress={() => bench.toggleWhole(false)}>Back to the bench</Button>}
    </Whole>
  );
}

const Look = styled.div`
  flex: none;
  .compare {
    padding: 5px 8px 0;
    display: grid;
  }
  .compare > div > button {
    flex: 1;
    padding: 1px 0;
    font-size: 12px;
    min-height: 26px;
  }
  .how {
    padding: 4px 8px 6px;
    display: flex;
    gap: 8px;
    align-items: center;
    justify-content: space-between;
    font-size: 12.5px;
  }
  .how button,
  .how select {
    min-height: 24px;
    padding: 1px 6px;
    font-size: 12.5px;
  }
`;

/** The whole picture at arm's length, and what it is compared with. */
function Overview() {
  const bench = useBench();
  const { compare, compareBy, surround, navigation } = bench;
  return (
    <Look>
      <ArmsLength
        state={bench.state}
        surround={SURROUNDS[surround]}
        compare={bench.held ? 'before' : compare}
        only={bench.onlyLayer}
        view={navigation.view}
        onGo={(x, y) => navigation.handle.current?.centreOn(x, y)}
      />
      <div className="compare">
        <Strip
          aria-label="Comparison"
          selectionMode="single"
          selectedKeys={compare === 'repaired' ? [] : [compare]}
          onSelectionChange={(k) => compareBy(([...k][0] as Compare | undefined) ?? compare)}
        >
          <Toggle id="before">Before</Toggle>
          <Toggle id="divider">Divider</Toggle>
          <Toggle id="difference">Difference</Toggle>
          <Toggle id="changes">Changes</Toggle>
        </Strip>
      </div>
      <div className="how">
        <label>
          Surround{' '}
          <Select value={surround} onChange={(e) => bench.setSurround(e.target.value as Surround)}>
            <option>light</option>
            <option>mid</option>
            <option>dark</option>
          </Select>
        </label>
        <Dial
          angle={navigation.view?.angle ?? 0}
          now={() => navigation.handle.current?.angle() ?? 0}
          onTurn={(to) => navigation.handle.current?.turnTo(to)}
        />
        <Toggle isSelected={bench.markers} onChange={bench.toggleMarkers}>
          Markers
        </Toggle>
      </div>
    </Look>
  );
}
