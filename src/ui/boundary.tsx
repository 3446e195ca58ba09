'use client';
import { Component, type ReactNode } from 'react';
import { Button } from './button';

interface Props {
  /** What is missing where this part fails, as the subject of a sentence. */
  readonly part: string;
  /** What went wrong, in words for the artist. */
  readonly explain: (reason: unknown) => string;
  readonly children: ReactNode;
}

/** Where a part of the page can't be shown, a message stands in its place; the rest goes on. */
export class Boundary extends Component<Props, { readonly reason: unknown }> {
  override state: { reason: unknown } = { reason: null };

  static getDerivedStateFromError(reason: unknown): { reason: unknown } {
    return { reason: reason ?? 'unknown' };
  }

  override render(): ReactNode {
    const { reason } = this.state;
    if (reason === null) return this.props.children;
    return (
      <div role="alert" className="p-4 flex flex-col gap-2 items-start">
        <p>
          {this.props.part} can’t be shown. {this.props.explain(reason)}
        </p>
        <Button onClick={() => this.setState({ reason: null })}>Try again</Button>
      </div>
    );
  }
}
