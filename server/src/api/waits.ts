import { listWaits } from '../waits/waits';
import { get, type Handle, type Route } from './route';

const list: Handle<'/waits'> = async (_request, response, { pool }) => {
  response.json(await listWaits(pool));
};

/** Records that rules wait for. */
export const waitRoutes: readonly Route[] = [get('/waits', 'runs.read', list)];
