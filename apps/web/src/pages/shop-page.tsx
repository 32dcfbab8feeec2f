/** What the pages of the whole shop have in common: the bar, a title line, room. */
import type { ReactNode } from 'react';
import { ShopBar } from '../frame/shop-bar.tsx';

export function ShopPage({ title, actions, children }: { title: string; actions?: ReactNode; children: ReactNode }) {
  return (
    <div className="flex h-full flex-col">
      <ShopBar />
      <main className="min-h-0 flex-1 overflow-y-auto">
        <div className="mx-auto max-w-[1240px] px-6 py-5">
          <div className="mb-4 flex items-center justify-between gap-4">
            <h1 className="text-2xl font-semibold tracking-tight">{title}</h1>
            <div className="flex items-center gap-2">{actions}</div>
          </div>
          {children}
        </div>
      </main>
    </div>
  );
}

/** An empty state that says how to begin. */
export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="panel mx-auto mt-16 flex max-w-lg flex-col items-center gap-3 px-8 py-10 text-center [--cut:16px]">
      <h2 className="text-lg font-semibold">{title}</h2>
      {children}
    </div>
  );
}
