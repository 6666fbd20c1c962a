import { screen } from '@testing-library/react';
import { roles } from '@vast-knot/core';
import { FakeResponse, FakeServer, openApp, viewOf, worldAnswers } from '../testing/app';
import { ruleWith } from '../work/testWorld';

const nobody = new FakeResponse(401, { status: 401, title: 'Not signed in', detail: 'Sign in first.' });

test('who is not signed in is asked for name and password, and then sees the page that was wanted', async () => {
  const server = new FakeServer({
    ...worldAnswers(viewOf(ruleWith([])), []),
    'GET /session': nobody,
    'POST /session': { name: 'Mara', role: 'administrator', rights: roles.administrator },
  });
  const { user } = openApp('/rules');
  await user.type(await screen.findByLabelText(/^Name/), 'mara');
  await user.type(screen.getByLabelText(/^Password/), 'tide-table{Enter}');
  expect(await screen.findByText('Company to party')).toBeTruthy();
  expect(server.of('POST', '/session')[0]?.body).toEqual({ name: 'mara', password: 'tide-table' });
  expect(screen.getByText('Mara')).toBeTruthy();
});

test('a wrong password is answered in a sentence, and what was typed stays', async () => {
  const detail = 'Name or password is wrong.';
  new FakeServer({
    'GET /session': nobody,
    'POST /session': new FakeResponse(401, { status: 401, title: 'Not signed in', detail }),
  });
  const { user } = openApp('/rules');
  await user.type(await screen.findByLabelText(/^Name/), 'mara');
  await user.type(screen.getByLabelText(/^Password/), 'guess');
  await user.click(screen.getByRole('button', { name: 'Sign in' }));
  expect((await screen.findByRole('alert')).textContent).toContain(detail);
  expect(screen.getByLabelText<HTMLInputElement>(/^Name/).value).toBe('mara');
});
