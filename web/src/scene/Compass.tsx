/** The compass rose: the drawing's north dashed, true north as a needle; both turn with the view. */
export function Compass({ drawing, north }: { drawing: number; north: number }) {
  return (
    <svg
      width={72}
      height={72}
      style={{ position: "absolute", right: 16, bottom: 54, zIndex: 2, pointerEvents: "none" }}
      aria-label={`True north ${-north} degrees clockwise of the drawing's`}
    >
      <circle cx={36} cy={36} r={27} fill="#FBF9F5EE" stroke="#D9D3C7" />
      <g transform={`rotate(${drawing} 36 36)`}>
        <line x1={36} y1={58} x2={36} y2={14} stroke="#5D6468" strokeDasharray="3 3" />
      </g>
      <g transform={`rotate(${drawing - north} 36 36)`}>
        <path d="M36 15l6.5 21-6.5-4.5-6.5 4.5z" fill="#22303A" />
        <path d="M36 57l-6.5-21 6.5 4.5 6.5-4.5z" fill="none" stroke="#22303A" strokeWidth={0.8} />
      </g>
      <text
        x={36 + 33 * Math.sin(((drawing - north) * Math.PI) / 180)}
        y={36 - 31 * Math.cos(((drawing - north) * Math.PI) / 180) + 4}
        fontSize={12}
        fontWeight={650}
        textAnchor="middle"
        fill="#22303A"
      >
        N
      </text>
    </svg>
  );
}
