#!/usr/bin/env node
import { pathToFileURL } from 'node:url';
import { ensureInstalled } from '../tools/install.mjs';
import { buildCli } from '../tools/build-cli.mjs';

ensureInstalled();
await import(pathToFileURL(await buildCli()).href);
