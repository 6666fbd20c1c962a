import { createSpotlight } from '@mantine/spotlight';

/** Opens and closes the field that finds anything, and what it has chosen. */
export const [finderStore, finder] = createSpotlight();
