/** One line to the person at the terminal. */
export function say(line) {
  process.stdout.write(`${line}\n`);
}

/** A failure that is explained by its message alone; scripts print it and end with status 1. */
export class Trouble extends Error {}

/** Runs a script's main function; trouble gives one line, anything else its stack. */
export async function run(main) {
  try {
    await main();
  } catch (thrown) {
    process.stderr.write(
      thrown instanceof Trouble ? `\n${thrown.message}\n` : `${thrown?.stack ?? thrown}\n`,
    );
    process.exitCode = 1;
  }
}
