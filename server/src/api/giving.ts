import type { Response } from 'express';
import type { WritingTools } from '@vast-knot/core';
import { BeyondLimits } from '../compute/computer';
import { HttpProblem } from '../http/problem';
import { giveList as give, type GivenAs, type GivenList } from '../http/giveList';
import type { Registry } from '../registry/registry';
import type { AppParts } from './route';

/** Returns what makes workbooks in a thread that computes: a long one takes seconds, in which nobody else would be answered. */
export function writingTools(parts: Pick<AppParts, 'computer'>, registry: Registry): WritingTools {
  return {
    workbook: async (sheets) => {
      try {
        return await parts.computer.run('workbook', { sheets }, registry);
      } catch (thrown) {
        if (!(thrown instanceof BeyondLimits)) throw thrown;
        throw new HttpProblem(413, 'Too much work', `${thrown.message} Take CSV, or narrow the list.`);
      }
    },
  };
}

/** Gives a list as a file. */
export async function giveList(
  response: Response,
  parts: Pick<AppParts, 'computer' | 'registry'>,
  as: GivenAs,
  list: GivenList,
): Promise<void> {
  await give(response, as, list, writingTools(parts, await parts.registry.get()));
}
