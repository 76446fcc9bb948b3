/** The wedge: the filled right triangle that marks a datum corner, here as the mark of the house. */
export function Wedge({ size = 26, colour = "#fff" }: { size?: number; colour?: string }) {
  return (
    <svg width={size} height={size} viewBox="0 0 26 26" aria-hidden="true">
      <path d="M1 1v24h24z" fill={colour} />
    </svg>
  );
}
