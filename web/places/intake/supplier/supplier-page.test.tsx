import { expect, test } from '@jest/globals';
import { screen, waitFor } from '@testing-library/react';
import { stand } from '@/test/interface';
import { SupplierPage } from './supplier-page';

const AWAY = { state: 'away', name: '', account: null, waiting: 0, coming: 0, reissued: 0, byItself: false };
const UNLINKED = { ...AWAY, state: 'unlinked', name: 'The Halyard Exchange' };
const page = (state: unknown) =>
  stand(<SupplierPage onClose={() => undefined} />, {
    answers: {
      'GET /api/v1/supplier': state,
      'GET /api/v1/supplier/takes': { takes: [], total: 0, pages: 0, tags: [] },
      'GET /api/v1/cast': [],
    },
  });

test('a supplier that does not answer is told, until it does', async () => {
  const { server, client } = page(AWAY);
  expect(await screen.findByText('The supplier does not answer')).toBeInTheDocument();
  server.answer({ 'GET /api/v1/supplier': UNLINKED });
  await client.invalidateQueries();
  expect(await screen.findByRole('heading', { name: 'The Halyard Exchange' })).toBeInTheDocument();
  expect(screen.queryByRole('status')).toBeNull();
});

test('one that is away for a moment takes nothing away that was typed or searched for', async () => {
  const { user, server, client } = page(UNLINKED);
  await user.type(await screen.findByLabelText('Find in the catalogue'), 'haul');
  await user.type(screen.getByLabelText('Key of the account'), 'a key');
  server.answer({ 'GET /api/v1/supplier': AWAY });
  await client.invalidateQueries();
  expect(await screen.findByRole('status')).toHaveTextContent('does not answer at the moment');
  expect(screen.getByLabelText('Find in the catalogue')).toHaveValue('haul');
  expect(screen.getByLabelText('Key of the account')).toHaveValue('a key');
  server.answer({ 'GET /api/v1/supplier': UNLINKED });
  await client.invalidateQueries();
  await waitFor(() => expect(screen.queryByRole('status')).toBeNull());
});
