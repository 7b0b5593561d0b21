/** Two centre lines and one true one. */
export function Mark({ size = 22 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 22 22" aria-hidden>
      <path d="M11 1v20M1 11h20" stroke="currentColor" strokeWidth="1.3" />
      <path d="M4 18L18 4" stroke="var(--stop)" strokeWidth="2" />
    </svg>
  );
}
