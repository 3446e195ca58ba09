import { buildCli } from '../../tools/build-cli.mjs';

/** Tests that call the command line call the one of these sources. */
export default async () => void (await buildCli());
