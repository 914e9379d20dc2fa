import { expect, test } from '@jest/globals';
import { screen, waitFor } from '@testing-library/react';
import { Refused, stand, told } from '@/test/interface';
import { rigAnswer } from '@/test/rigs';
import { useFigure } from './figures';
import { rigView } from './rig-view';

const rig = rigAnswer();
function Shown({ hash, bare = false }: { hash: string | null; bare?: boolean }) {
  const figure = useFigure(rigView(rig), hash ? { figure: hash } : undefined, bare);
  return <p>{figure ? `${figure.joints.length} joints` : 'nothing yet'}</p>;
}
const joints = `${rig.rig.joints.length} joints`;

test('a character without a mesh is drawn by its bones, and so is one whose bones are wanted', () => {
  stand(<Shown hash={null} />);
  expect(screen.getByText(joints)).toBeInTheDocument();
  stand(<Shown hash="abc" bare />, { answers: { 'GET /api/v1/files/abc': new Uint8Array(9) } });
  expect(screen.getByText(joints)).toBeInTheDocument();
});

test('a mesh that cannot be loaded is told, and the bones are drawn instead', async () => {
  stand(<Shown hash="gone" />, { answers: { 'GET /api/v1/files/gone': new Refused(404, 'It is not there.') } });
  expect(screen.getByText('nothing yet')).toBeInTheDocument();
  expect(await told(/could not be loaded: its bones are shown/)).toBeInTheDocument();
  await waitFor(() => expect(screen.getByText(joints)).toBeInTheDocument());
});
