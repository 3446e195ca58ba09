import { expect, type BrowserContext, type Page } from '@playwright/test';

/*
 * Holds a job of the page at a checkpoint of its own, for as long as the test wants: what happens in the middle of a job
 * is then not a matter of luck. The page's flag that asks a job to stop carries the order, and the worker, whose script
 * is given a few lines more on its way, waits while it finds it.
 */
const HOLD = -1000;

/** In front of every script of a worker: the flag counts down to the checkpoint and then holds. */
const PRELUDE = `
if (typeof WorkerGlobalScope !== 'undefined' && !self.levelGridGate) {
  self.levelGridGate = true;
  const load = Atomics.load;
  Atomics.load = (array, index) => {
    let value = load(array, index);
    if (array.length !== 1 || value > ${HOLD} || array.buffer.byteLength !== 4) return value;
    if (value < ${HOLD}) {
      Atomics.add(array, index, 1);
      return 0;
    }
    while (value === ${HOLD}) {
      Atomics.wait(array, index, value, 5);
      value = load(array, index);
    }
    return value;
  };
}
`;

interface Armed {
  levelGridHold?: { skip: number; after: number };
  levelGridHeld?: Int32Array;
}

export class Gate {
  private constructor(private readonly page: Page) {}

  /** Contexts whose workers' scripts have the lines already. */
  private static readonly served = new WeakSet<BrowserContext>();

  private static async serve(context: BrowserContext): Promise<void> {
    Gate.served.add(context);
    await context.route(/\/_next\/static\/.*\.js(\?.*)?$/, async (route) => {
      // a server may close a connection in the moment in which it is used again
      const response = await route.fetch({ maxRetries: 3 });
      await route.fulfill({ response, body: PRELUDE + (await response.text()) });
    });
  }

  /** Puts the gate in; the page must be opened (again) after it. */
  static async into(page: Page): Promise<Gate> {
    if (!Gate.served.has(page.context())) await Gate.serve(page.context());
    await page.addInitScript((hold) => {
      const armed = window as Armed;
      window.SharedArrayBuffer = new Proxy(SharedArrayBuffer, {
        construct: (of, given: [number]) => {
          const buffer = new of(...given);
          const { levelGridHold: wanted } = armed;
          if (given[0] !== 4 || !wanted) return buffer;
          if (wanted.skip-- > 0) return buffer;
          delete armed.levelGridHold;
          armed.levelGridHeld = new Int32Array(buffer);
          armed.levelGridHeld[0] = hold - wanted.after;
          return buffer;
        },
      });
    }, HOLD);
    return new Gate(page);
  }

  /** The next job, or the one that follows `skip` others, will be held at its checkpoint number `after`. */
  async arm({ skip = 0, after = 0 } = {}): Promise<void> {
    await this.page.evaluate(
      (wanted) => {
        const armed = window as Armed;
        delete armed.levelGridHeld;
        armed.levelGridHold = wanted;
      },
      { skip, after },
    );
  }

  /**
   * The same for the job that a click begins, in one moment with it: a measurement of ground that begins between the
   * two would be held in its place, and nothing would ever let go of it. A button that can't be clicked is an error.
   */
  async armAndClick(name: string, { skip = 0, after = 0 } = {}): Promise<void> {
    const button = this.page.getByRole('button', { name });
    await expect(button).toBeEnabled();
    await button.evaluate(
      (button: HTMLButtonElement, wanted) => {
        if (button.disabled) throw new Error(`${button.textContent} was switched off again`);
        const armed = window as Armed;
        delete armed.levelGridHeld;
        armed.levelGridHold = wanted;
        button.click();
      },
      { skip, after },
    );
  }

  /** Waits until the job stands there. */
  async reached(): Promise<void> {
    await this.page.waitForFunction((hold) => (window as Armed).levelGridHeld?.[0] === hold, HOLD);
  }

  /** Lets it go on. */
  async open(): Promise<void> {
    await this.page.evaluate(() => {
      const { levelGridHeld: held } = window as Armed;
      if (held && held[0] !== 1) held[0] = 0;
    });
  }
}
