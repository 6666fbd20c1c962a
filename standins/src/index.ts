import { customerBook } from './customerBook';
import { freightDesk } from './freightDesk';

/** The simulated business applications, by name. */
export const applications = { 'customer-book': customerBook, 'freight-desk': freightDesk } as const;
export { startStandin, type Standin, type StandinOptions } from './kit/standin';
