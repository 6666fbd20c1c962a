import { get, type Handle, type Route } from './route';

const listen: Handle<'/stream'> = (_request, response, { stream }) => stream.answer(response);

export const streamRoutes: readonly Route[] = [get('/stream', 'runs.read', listen)];
