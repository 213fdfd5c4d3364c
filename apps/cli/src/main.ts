#!/usr/bin/env node
import { runStem } from './stem.js';
import { terminalOf } from './terminal.js';

const { code, out, err } = await runStem(process.argv.slice(2), terminalOf(process));
process.stdout.write(out);
process.stderr.write(err);
process.exitCode = code;
