/** A canvas that draws nothing and remembers what it was told: enough for the map in Node. */
export class FakeCanvas {
  width = 0;
  height = 0;
  readonly attributes = new Map<string, string>();
  /** Names of the drawing calls, oldest first, and pictures that were drawn. */
  readonly calls: string[] = [];
  readonly pictures: unknown[] = [];
  readonly texts: string[] = [];
  private readonly context = new Proxy<Record<string, unknown>>(
    {},
    {
      get: (values, name: string) => {
        if (name in values) return values[name];
        if (name === 'measureText') return (text: string) => ({ width: 6 * text.length });
        return (...args: unknown[]) => {
          this.calls.push(name);
          if (name === 'drawImage') this.pictures.push(args[0]);
          if (name === 'fillText') this.texts.push(String(args[0]));
        };
      },
      set: (values, name: string, value) => {
        values[name] = value;
        return true;
      },
    },
  );

  getContext(): unknown {
    return this.context;
  }
  setAttribute(name: string, value: string): void {
    this.attributes.set(name, value);
  }
}

/** Frames and timers that the test lets come; time stands still between them. */
export class FakeFrames {
  now = 0;
  private frames: (() => void)[] = [];
  private timers: { id: number; at: number; act: () => void }[] = [];
  private timersMade = 0;

  /** Puts itself and fake canvases in the place of the browser's. */
  static install(): FakeFrames {
    const fake = new FakeFrames();
    Object.assign(globalThis, {
      window: { devicePixelRatio: 1 },
      document: { createElement: () => new FakeCanvas() },
      ImageData: class {},
      requestAnimationFrame: (act: () => void) => fake.frames.push(act),
    });
    jest.spyOn(performance, 'now').mockImplementation(() => fake.now);
    jest.spyOn(globalThis, 'setTimeout').mockImplementation(((act: () => void, ms = 0) => {
      fake.timers.push({ id: ++fake.timersMade, at: fake.now + ms, act });
      return fake.timersMade;
    }) as never);
    jest.spyOn(globalThis, 'clearTimeout').mockImplementation((id) => {
      fake.timers = fake.timers.filter((t) => t.id !== (id as never as number));
    });
    return fake;
  }

  /** Lets time go on, due timers fire and one frame come. */
  frame(ms = 16): void {
    this.now += ms;
    const due = this.timers.filter((t) => t.at <= this.now);
    this.timers = this.timers.filter((t) => t.at > this.now);
    for (const { act } of due) act();
    for (const act of this.frames.splice(0)) act();
  }
}
