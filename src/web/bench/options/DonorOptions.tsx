import { Button, Strip, Toggle } from '../../ui/controls.tsx';
import { useBench } from '../useBench.ts';
import { PoseFields } from './PoseFields.tsx';

/** The donor of a copy or a blend: where it is, whether it travels, how it lies. */
export function DonorOptions() {
  const { hand } = useBench();
  const { settings, set } = hand;
  return (
    <>
      <div className="row">
        <Toggle isSelected={hand.armed} onChange={hand.setArmed}>
          {hand.from ? 'Other donor' : 'Set donor'}
        </Toggle>
        <Strip
          aria-label="The donor"
          selectionMode="single"
          disallowEmptySelection
          selectedKeys={[settings.travels ? 'travels' : 'returns']}
          onSelectionChange={(k) => set({ travels: [...k][0] === 'travels' })}
        >
          <Toggle id="travels">travels</Toggle>
          <Toggle id="returns">returns</Toggle>
        </Strip>
      </div>
      <PoseFields pose={settings.pose} onChange={(pose) => set({ pose })} />
      {hand.fault?.line && <Button onPress={hand.alongLine}>Along its line</Button>}
    </>
  );
}
