/** Path data of lines, arcs and cubics as points, for finding what lies under the pointer; mm. */
export function flattened(d: string): number[] {
  const found: number[] = [];
  let x = 0,
    y = 0;
  for (const [, letter, rest] of d.matchAll(/([MLACZ])([^MLACZ]*)/g)) {
    const n = rest.trim()
      ? rest
          .trim()
          .split(/[\s,]+/)
          .map(Number)
      : [];
    if (letter === 'M' || letter === 'L')
      for (let i = 0; i + 1 < n.length; i += 2) found.push((x = n[i]), (y = n[i + 1]));
    else if (letter === 'A') {
      arc(found, x, y, n[0], n[1], (n[2] * Math.PI) / 180, n[4] === 1, n[5], n[6]);
      [x, y] = [n[5], n[6]];
    } else if (letter === 'C')
      for (let i = 0; i + 5 < n.length; i += 6) {
        const steps = 8;
        for (let k = 1; k <= steps; k++) {
          const t = k / steps,
            u = 1 - t;
          const [a, b, c, e] = [u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t];
          found.push(a * x + b * n[i] + c * n[i + 2] + e * n[i + 4]);
          found.push(a * y + b * n[i + 1] + c * n[i + 3] + e * n[i + 5]);
        }
        [x, y] = [n[i + 4], n[i + 5]];
      }
    else if (letter === 'Z' && found.length) found.push(found[0], found[1]);
  }
  return found;
}

/** An arc of at most a half turn, by its ends, as SVG tells it. */
function arc(
  out: number[],
  x0: number,
  y0: number,
  rx: number,
  ry: number,
  tilt: number,
  sweep: boolean,
  x1: number,
  y1: number,
) {
  const cos = Math.cos(tilt),
    sin = Math.sin(tilt);
  const px = (cos * (x0 - x1) + sin * (y0 - y1)) / 2,
    py = (-sin * (x0 - x1) + cos * (y0 - y1)) / 2;
  const grown = Math.max(1, Math.sqrt((px / rx) ** 2 + (py / ry) ** 2));
  const a = rx * grown,
    b = ry * grown;
  const rest = (a * b) ** 2 - (a * py) ** 2 - (b * px) ** 2;
  const k = (sweep ? 1 : -1) * Math.sqrt(Math.max(0, rest) / ((a * py) ** 2 + (b * px) ** 2 || 1));
  const qx = (k * a * py) / b,
    qy = (-k * b * px) / a;
  const cx = cos * qx - sin * qy + (x0 + x1) / 2,
    cy = sin * qx + cos * qy + (y0 + y1) / 2;
  const from = Math.atan2((py - qy) / b, (px - qx) / a);
  let turn = Math.atan2((-py - qy) / b, (-px - qx) / a) - from;
  if (sweep && turn < 0) turn += 2 * Math.PI;
  if (!sweep && turn > 0) turn -= 2 * Math.PI;
  const steps = Math.max(2, Math.ceil(Math.abs(turn) / 0.2));
  for (let i = 1; i <= steps; i++) {
    const t = from + (turn * i) / steps;
    const ex = a * Math.cos(t),
      ey = b * Math.sin(t);
    out.push(cx + cos * ex - sin * ey, cy + sin * ex + cos * ey);
  }
}
