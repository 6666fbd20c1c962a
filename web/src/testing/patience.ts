import { configure } from '@testing-library/react';

// What is waited for comes within moments; on a machine that is busy with all tests at once they are longer.
configure({ asyncUtilTimeout: 10_000 });
jest.setTimeout(30_000);
