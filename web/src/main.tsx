import '@fontsource-variable/atkinson-hyperlegible-next';
import '@fontsource-variable/atkinson-hyperlegible-mono';
import '@mantine/core/styles.css';
import '@mantine/dates/styles.css';
import '@mantine/notifications/styles.css';
import '@mantine/spotlight/styles.css';
import './look/look.css';
import './parts/parts.css';
import './frame/frame.css';
import './systems/systems.css';
import './tables/tables.css';
import './values/values.css';
import './rules/rules.css';
import './rules/ledger/ledger.css';
import './rules/formula/formula.css';
import './bench/bench.css';
import './runs/runs.css';
import './messages/messages.css';
import './help/help.css';
import './tour/tour.css';
import { MantineProvider } from '@mantine/core';
import { Notifications } from '@mantine/notifications';
import { QueryClient, QueryClientProvider, type Mutation } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter } from 'react-router';
import { ApiProblem } from './api/client';
import { keys, leaving } from './api/queries';
import { App } from './App';
import { theme, variables } from './look/theme';

const client = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 10_000,
      retry: (failures, error) =>
        failures < 2 && (!(error instanceof ApiProblem) || error.problem.status === 0),
    },
  },
});
const wentWell = ({ state }: Mutation) => state.status !== 'error';
client.getQueryCache().subscribe(({ query }) => {
  const { error } = query.state;
  const signedOut = error instanceof ApiProblem && error.problem.status === 401;
  // Whoever signs out goes to a fresh page: signing in on the one before would be cut off by it.
  const goes = client.getMutationCache().find({ mutationKey: leaving, predicate: wentWell });
  if (signedOut && !goes && query.queryKey[0] !== keys.session[0])
    void client.resetQueries({ queryKey: keys.session });
});

const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <MantineProvider theme={theme} cssVariablesResolver={variables} defaultColorScheme="auto">
        <Notifications position="bottom-right" />
        <QueryClientProvider client={client}>
          <BrowserRouter>
            <App />
          </BrowserRouter>
        </QueryClientProvider>
      </MantineProvider>
    </StrictMode>,
  );
}
