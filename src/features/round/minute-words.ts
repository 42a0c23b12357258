/** "3 min" or "3 to 8 min", of expected and slow minutes. */
export const minuteWords = ([expected, slow]: readonly [number, number]) => {
  const [a, b] = [Math.max(1, Math.round(expected)), Math.max(1, Math.round(slow))];
  return a === b ? `${a} min` : `${a} to ${b} min`;
};
