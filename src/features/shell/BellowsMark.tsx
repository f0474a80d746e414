/** The sign of the product: a smoker's bellows, folded. */
export function BellowsMark({ size = 22 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 24 24" fill="none" aria-hidden="true">
      <path d="M4 3.5 20 8v8L4 20.5z" className="fill-copper" opacity="0.16" />
      <path
        d="M4 3.5 20 8M4 20.5 20 16M4 3.5v17M20 8v8M4 8l5.5 4L4 16M12.2 5.8 16 12l-3.8 6.2"
        className="stroke-copper"
        strokeWidth="1.5"
        strokeLinecap="round"
        strokeLinejoin="round"
      />
    </svg>
  );
}
