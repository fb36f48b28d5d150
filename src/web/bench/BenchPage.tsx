import { useParams } from 'react-router';
import styled from 'styled-components';
import type { DonorAdvice } from '../../core/repair/hand/donor-search.ts';
import { SURROUNDS, type Surround } from '../theme.ts';
import { Button, Select, Strip, Toggle } from '../ui/controls.tsx';
import { Opening, Shell } from '../ui/page.tsx';
import { ArmsLength } from '../viewer/ArmsLength.tsx';
import { CloseUp } from '../viewer/CloseUp.tsx';
import { Dial } from '../viewer/Dial.tsx';
import type { Compare } from '../viewer/usePictureViewer.ts';
import { Worklist } from '../worklist/Worklist.tsx';
import { BenchBar } from './BenchBar.tsx';
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
        {!bench.whole && <BenchBar />}
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

const NO_DONORS: DonorAdvice[] = [];

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
        markers={markers && !bench.bare}
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
          donors={bench.repair || bench.bare ? NO_DONORS : (proposal?.donors ?? NO_DONORS)}
          markers={markers}
          bare={bench.bare}
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
    flex: 1 1 auto;
    min-width: 0;
    padding: 1px 3px;
    font-size: 11.5px;
    letter-spacing: -0.02em;
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
