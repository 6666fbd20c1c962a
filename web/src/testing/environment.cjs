const { TestEnvironment } = require('jest-environment-jsdom');

/** A page with what browsers have and the environment leaves out. */
module.exports = class extends TestEnvironment {
  async setup() {
    await super.setup();
    Object.assign(this.global, { TextEncoder, TextDecoder, Headers, structuredClone });
  }
};
