import { customerBook } from './customerBook';
import { fleetLog } from './fleetLog';
import { freightDesk } from './freightDesk';
import { noticePost } from './noticePost';
import { yardPlanner } from './yardPlanner';

/** The simulated business applications, by name. */
export const applications = {
  'customer-book': customerBook,
  'freight-desk': freightDesk,
  'fleet-log': fleetLog,
  'yard-planner': yardPlanner,
  'notice-post': noticePost,
} as const;
export { startRegister, userOf, type BerthRegister } from './berthRegister/register';
export { startStandin, type Standin, type StandinOptions } from './kit/standin';
