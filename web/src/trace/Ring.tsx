/** One revolution, hump by hump, round: a weak one stands in towards the middle. */
import * as words from "./words";

export function Ring({
  levels,
  weak,
  mean,
  other,
}: {
  levels: number[];
  weak: number[];
  mean: number;
  other?: number[];
}) {
  const n = levels.length;
  const size = 300;
  const c = size / 2;
  // Full scale is a fifth of the mean in and out, or what the worst hump needs.
  const most = Math.max(0.2, ...levels.map((v) => Math.abs(v / mean - 1) * 1.15));
  const radius = (v: number) => 92 + (40 * (v / mean - 1)) / most;
  const point = (i: number, r: number) => {
    const a = (2 * Math.PI * i) / n - Math.PI / 2;
    return `${(c + r * Math.cos(a)).toFixed(1)},${(c + r * Math.sin(a)).toFixed(1)}`;
  };
  const slice = (i: number, r: number) =>
    `M${point(i + 0.06, 44)} L${point(i + 0.06, r)} A${r},${r} 0 0 1 ${point(i + 0.94, r)} L${point(i + 0.94, 44)} A44,44 0 0 0 ${point(i + 0.06, 44)} Z`;
  const says =
    weak.length === 0
      ? words.noWeakOne
      : `weak: ${weak.map((i) => words.low(i + 1, Math.round(100 * (1 - levels[i]! / mean)))).join("; ")}`;
  return (
    <figure className="ring">
      <svg width={size} height={size} role="img" aria-label={words.oneRevolutionInHumps(n, says)}>
        {levels.map((v, i) => (
          <path key={i} className={weak.includes(i) ? "weak" : ""} d={slice(i, radius(v))} />
        ))}
        {other?.map((v, i) => (
          <path
            key={`o${i}`}
            className="other"
            d={`M${point(i + 0.06, radius(v))} A${radius(v)},${radius(v)} 0 0 1 ${point(i + 0.94, radius(v))}`}
          />
        ))}
        <circle className="mean" cx={c} cy={c} r={92} />
        {weak.map((i) => {
          const [x, y] = point(i + 0.5, 122).split(",");
          return (
            <text key={i} x={x} y={y} textAnchor="middle" dominantBaseline="middle">
              {i + 1}
            </text>
          );
        })}
        <text className="ring-n" x={c} y={c} textAnchor="middle" dominantBaseline="middle">
          {words.aTurn(n)}
        </text>
      </svg>
      <figcaption>
        {words.ringTheMean(
          weak.length ? says.charAt(0).toUpperCase() + says.slice(1) : words.allAlike,
          other ? words.copperArcsTheOther : "",
        )}
      </figcaption>
    </figure>
  );
}
