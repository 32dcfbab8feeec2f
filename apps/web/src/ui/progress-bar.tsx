/** How much of something long is done, as a bar. */
export function ProgressBar({ label, share }: { label: string; share: number }) {
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuenow={Math.round(share * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
      className="h-2 flex-1 border border-line-strong bg-desk"
    >
      <div className="h-full bg-teal transition-[width] duration-200" style={{ width: `${100 * share}%` }} />
    </div>
  );
}
