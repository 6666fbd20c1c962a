import { screen } from '@testing-library/react';
import { FakeResponse, FakeServer, openApp, signedInAs, viewOf, worldAnswers } from '../testing/app';
import { ruleWith } from '../work/testWorld';

const nobody = new FakeResponse(401, { status: 401, title: 'Not signed in', detail: 'Sign in first.' });

// Without a layout there is no height, and what is out of sight is not drawn.
beforeAll(() => {
  Object.defineProperty(HTMLElement.prototype, 'clientHeight', { value: 600 });
  Object.defineProperty(HTMLElement.prototype, 'offsetHeight', { value: 600 });
  Object.defineProperty(HTMLElement.prototype, 'offsetWidth', { value: 900 });
});

test('who is not signed in is asked for name and password, and then sees the page that was wanted', async () => {
  const server = new FakeServer({
    ...worldAnswers(viewOf(ruleWith([])), []),
    'GET /session': nobody,
    'POST /session': signedInAs('administrator'),
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
