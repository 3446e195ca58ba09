/** A change of a recipe by its name: what repairs carry, and what page, tests and command line apply. */
export interface EditCall {
  readonly edit: string;
  readonly args: Readonly<Record<string, unknown>>;
}

/** One that is offered with a few words. */
export interface Repair extends EditCall {
  readonly label: string;
}
