/** A page that broke: what happened, and the ways out. What was made is safe on the server and in this browser. */
import { Component, type ReactNode } from 'react';
import { sentenceOf } from '../api/client.ts';
import { Button } from '../ui/button.tsx';

function BrokenPage({ error }: { error: unknown }) {
  return (
    <main className="flex h-full flex-col items-center justify-center gap-3 bg-desk" role="alert">
      <div className="panel flex max-w-lg flex-col gap-3 p-6 [--cut:16px]">
        <h1 className="text-xl font-semibold">This page broke</h1>
        <p>Nothing that was saved is harmed, and what waits to be saved is kept. Load the page again, or go on elsewhere.</p>
        <p className="numerals text-[13px] break-words text-ink-soft">{sentenceOf(error)}</p>
        <div className="flex gap-2">
          <Button look="main" onClick={() => window.location.reload()}>
            Load it again
          </Button>
          <a className="inline-flex h-8 items-center border border-line-strong px-3 hover:bg-teal-wash" href="/jobs">
            To the jobs
          </a>
        </div>
      </div>
    </main>
  );
}

interface BoundaryProps {
  /** Where the page is: somewhere else it is tried again. */
  readonly place: string;
  readonly children: ReactNode;
}

export class PageBoundary extends Component<BoundaryProps, { broken?: { readonly error: unknown } | undefined }> {
  override state: { broken?: { readonly error: unknown } | undefined } = {};

  static getDerivedStateFromError(error: unknown) {
    return { broken: { error } };
  }

  override componentDidUpdate({ place }: BoundaryProps): void {
    if (place !== this.props.place && this.state.broken) this.setState({ broken: undefined });
  }

  override render(): ReactNode {
    const { broken } = this.state;
    return broken ? <BrokenPage error={broken.error} /> : this.props.children;
  }
}
