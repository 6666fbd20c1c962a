import { TooManyRows, type WritingTools } from '@vast-knot/core';
import type { Registry } from '../registry/registry';
import { BeyondLimits, type Computer } from './computer';

/** Returns what makes workbooks beside the thread at hand. One that takes too long is told as one of too many rows. */
export function workbooksBy(computer: Computer, registry: Registry): WritingTools {
  return {
    workbook: (sheets) =>
      computer.run('workbook', { sheets }, registry).catch((thrown: unknown): never => {
        throw thrown instanceof BeyondLimits
          ? new TooManyRows(`${thrown.message} Take CSV instead.`)
          : thrown;
      }),
  };
}
