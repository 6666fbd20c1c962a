import { arrivalLayoutRoutes } from './arrivalLayouts';
import { arrivalRowRoutes } from './arrivalRows';
import { arrivalRoutes } from './arrivals';
import { auditRoutes } from './audit';
import { connectionRoutes } from './connections';
import { failureRoutes } from './failures';
import { fileSourceRoutes } from './fileSources';
import { formRoutes } from './forms';
import { historyRoutes } from './history';
import { importRoutes } from './imports';
import { listRoutes } from './lists';
import { jobRoutes } from './jobs';
import { endpointRoutes, messageRoutes } from './messages';
import { openApiRoutes } from './openApi';
import { pauseRoutes } from './pauses';
import { peopleRoutes } from './people';
import { presenceRoutes } from './presence';
import { reconcileRoutes } from './reconciles';
import { recordRoutes } from './records';
import { requestRoutes } from './requests';
import { rulesNowRoutes } from './rulesNow';
import type { Route } from './route';
import { ruleRoutes } from './rules';
import { runRoutes } from './runs';
import { sampleRoutes } from './samples';
import { specificationRoutes } from './specification';
import { streamRoutes } from './stream';
import { systemRoutes } from './systems';
import { tableRoutes } from './tables';
import { tellingRoutes } from './telling';
import { todayRoutes } from './today';
import { undoRoutes } from './undo';
import { valueRoutes } from './values';
import { waitRoutes } from './waits';

/** Every address of the API below `/api`, but for signing in and out. */
export const routes: readonly Route[] = [
  ...systemRoutes,
  ...connectionRoutes,
  ...recordRoutes,
  ...valueRoutes,
  ...tableRoutes,
  ...ruleRoutes,
  ...requestRoutes,
  ...importRoutes,
  ...rulesNowRoutes,
  ...sampleRoutes,
  ...historyRoutes,
  ...reconcileRoutes,
  ...undoRoutes,
  ...runRoutes,
  ...failureRoutes,
  ...todayRoutes,
  ...tellingRoutes,
  ...waitRoutes,
  ...pauseRoutes,
  ...messageRoutes,
  ...endpointRoutes,
  ...arrivalRoutes,
  ...arrivalLayoutRoutes,
  ...arrivalRowRoutes,
  ...formRoutes,
  ...fileSourceRoutes,
  ...listRoutes,
  ...specificationRoutes,
  ...peopleRoutes,
  ...presenceRoutes,
  ...auditRoutes,
  ...jobRoutes,
  ...streamRoutes,
  ...openApiRoutes(() => routes),
];
