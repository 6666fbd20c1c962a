import type { ImportAsked } from '@vast-knot/core';

/** What is said of files that were chosen: what stands for what, which of two is to stand, and whether rules run. */
export type Said = Omit<ImportAsked, 'files'>;
