import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';

export interface Measured {
  readonly code: number | null;
  readonly out: string;
  readonly err: string;
  /** Resident memory at its highest, MB; threads included. Null where the system keeps no account of it. */
  readonly peak: number | null;
  readonly seconds: number;
}

/** One run of a Node program with its peak memory, read from the kernel's own account. */
export function measured(args: readonly string[], env = process.env): Promise<Measured> {
  return new Promise((resolve) => {
    const start = performance.now();
    const child = spawn(process.execPath, args, { env, stdio: ['ignore', 'pipe', 'pipe'] });
    let [out, err] = ['', ''];
    child.stdout.on('data', (text: Buffer) => (out += text.toString()));
    child.stderr.on('data', (text: Buffer) => (err += text.toString()));
    let peak: number | null = null;
    const look = setInterval(() => {
      try {
        const line = /VmHWM:\s+(\d+) kB/.exec(readFileSync(`/proc/${child.pid ?? 0}/status`, 'utf8'));
        if (line) peak = Math.max(peak ?? 0, Number(line[1]) / 1024);
      } catch {
        // it has ended, or this is another system
      }
    }, 10);
    child.on('close', (code) => {
      clearInterval(look);
      resolve({ code, out, err, peak, seconds: (performance.now() - start) / 1000 });
    });
  });
}
