/** The mark of the house: a letter cut from film, its corner taken off. */
export function Mark({ size = 26 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 32 32" aria-hidden>
      <path d="M0 0h23l9 9v23H0z" fill="var(--color-ink)" />
      <path d="M8 6v20h17v-5H13.5V6z" fill="var(--color-paper)" />
      <path d="M17 6l8 8v4l-8-8z" fill="#3fa39f" />
    </svg>
  );
}
