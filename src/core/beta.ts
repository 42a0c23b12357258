/* How often something happens, from a stated prior and what was counted: a Beta distribution. */

export interface Beta {
  /** Times it happened, the prior's included; above 0. */
  readonly yes: number;
  readonly no: number;
}

export const mean = ({ yes, no }: Beta) => yes / (yes + no);
export const counted = ({ yes, no }: Beta, happened: number, chances: number): Beta => ({
  yes: yes + happened,
  no: no + Math.max(0, chances - happened),
});

const POINTS = 4000;

/** The value below which a share `p` of the distribution lies, to three digits; by adding up its density. */
export function quantile({ yes, no }: Beta, p: number): number {
  const density = (x: number) => Math.exp((yes - 1) * Math.log(x) + (no - 1) * Math.log(1 - x));
  let total = 0;
  for (let i = 0; i < POINTS; i += 1) total += density((i + 0.5) / POINTS);
  let sum = 0;
  for (let i = 0; i < POINTS; i += 1) {
    sum += density((i + 0.5) / POINTS);
    if (sum >= p * total) return (i + 0.5) / POINTS;
  }
  return 1;
}
