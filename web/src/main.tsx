import '@fontsource-variable/atkinson-hyperlegible-next';
import '@fontsource-variable/atkinson-hyperlegible-mono';
import '@mantine/core/styles.css';
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
import { MantineProvider } from '@mantine/core';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter } from 'react-router';
import { ApiProblem } from './api/client';
import { keys } from './api/queries';
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
client.getQueryCache().subscribe(({ query }) => {
  const { error } = query.state;
  const signedOut = error instanceof ApiProblem && error.problem.status === 401;
  if (signedOut && query.queryKey[0] !== keys.session[0])
    void client.resetQueries({ queryKey: keys.session });
});

const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <MantineProvider theme={theme} cssVariablesResolver={variables} defaultColorScheme="auto">
        <QueryClientProvider client={client}>
          <BrowserRouter>
            <App />
          </BrowserRouter>
        </QueryClientProvider>
      </MantineProvider>
    </StrictMode>,
  );
}
