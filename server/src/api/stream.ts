import { get, personOf, type Handle, type Route } from './route';

const listen: Handle<'/stream'> = (request, response, { stream }) =>
  stream.answer(response, personOf(request));

export const streamRoutes: readonly Route[] = [get('/stream', 'runs.read', listen)];
