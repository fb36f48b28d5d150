import { checkCommand } from './check.ts';
import { fillCommand } from './fill.ts';
import { meshCommand, surveyCommand, traceCommand } from './find.ts';
import { importCommand } from './import.ts';
import { extendCommand } from './extend.ts';
import { joinCommand } from './join.ts';
import { levelCommand } from './level.ts';
import { stretchCommand } from './stretch.ts';
import { UsageError } from './usage.ts';
import { verifyCommand } from './verify.ts';

const COMMANDS: Record<string, (args: string[]) => Promise<object>> = {
  fill: fillCommand,
  survey: surveyCommand,
  trace: traceCommand,
  mesh: meshCommand,
  check: checkCommand,
  level: levelCommand,
  extend: extendCommand,
  stretch: stretchCommand,
  join: joinCommand,
  verify: verifyCommand,
  import: importCommand,
};

const [name, ...args] = process.argv.slice(2);
try {
  const command = COMMANDS[name];
  if (!command)
    throw new UsageError(
      `Say what to do: tersum ${[...Object.keys(COMMANDS), 'backup', 'check-store', 'replay'].join(' | ')} --help`,
    );
  console.log(JSON.stringify(await command(args)));
} catch (error) {
  // Bad input is told in one line; anything else is a fault of ours and shows where.
  console.error(error instanceof UsageError ? `tersum: ${error.message}` : error);
  process.exitCode = error instanceof UsageError ? 2 : 1;
}
