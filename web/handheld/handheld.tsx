import type { Me } from '#contract/people';
import { Route, Routes } from 'react-router';
import { CameraStrip } from '#web/camera';
import { AdjustOnFloor } from './adjust.tsx';
import { BeginOnFloor } from './begin.tsx';
import { AssignHomes } from './assign.tsx';
import { CarryOnFloor } from './carry.tsx';
import { CollectSheets } from './collect.tsx';
import { CountOnFloor } from './count.tsx';
import { ThisDevice } from './device.tsx';
import { MoveOnFloor } from './move.tsx';
import { MyWork } from './my-work.tsx';
import { PickOnFloor } from './pick.tsx';
import { TakingAlong, useCourier, useFloor } from '#web/hands';
import { QuickAdd } from './quick-add.tsx';
import { ReceiveOnFloor } from './receive.tsx';

/** The handheld: one list, one scan line, one decision per screen. */
export function Handheld({ me }: { me: Me }) {
  useCourier(me);
  const { ready } = useFloor();
  if (!ready) return <TakingAlong />;
  return (
    <>
      <CameraStrip />
      <Routes>
        <Route index element={<MyWork me={me} />} />
        <Route path="begin" element={<BeginOnFloor />} />
        <Route path="receive/:id" element={<ReceiveOnFloor />} />
        <Route path="put-away" element={<MoveOnFloor key="arrivals" source="arrivals" />} />
        <Route path="unplaced" element={<MoveOnFloor key="unplaced" source="unplaced" />} />
        <Route path="quick-add" element={<QuickAdd />} />
        <Route path="assign" element={<AssignHomes />} />
        <Route path="move" element={<MoveOnFloor key="bin" source="bin" />} />
        <Route path="adjust" element={<AdjustOnFloor />} />
        <Route path="collect" element={<CollectSheets />} />
        <Route path="round/:id" element={<PickOnFloor />} />
        <Route path="carry/:id" element={<CarryOnFloor />} />
        <Route path="count/:id" element={<CountOnFloor />} />
        <Route path="device" element={<ThisDevice />} />
        <Route path="*" element={<MyWork me={me} />} />
      </Routes>
    </>
  );
}
