import type { ExportAsked } from '@vast-knot/core';
import { askForFile, sentenceOf } from '../api/client';
import { giveFile } from '../parts/giveFile';
import { tellTrouble } from '../parts/toast';

const types = { file: 'application/json', archive: 'application/zip' } as const;
const endings = { file: 'json', archive: 'zip' } as const;

/** Gives rules as a file, as they are edited, with all that they need; another environment and the command line read it. */
export async function exportBundle(asked: ExportAsked): Promise<void> {
  const { form, folder } = asked;
  try {
    const content = await askForFile('/bundles', asked);
    giveFile(
      `${folder === undefined || folder === '' ? 'rules' : folder}.${endings[form]}`,
      types[form],
      content,
    );
  } catch (thrown) {
    tellTrouble(sentenceOf(thrown));
  }
}
