/** Seconds as people say them. */
export function inTime(seconds: number): string {
  const whole = Math.round(seconds);
  const [hours, minutes] = [Math.floor(whole / 3600), Math.floor((whole % 3600) / 60)];
  if (hours) return `${hours} h ${minutes} min`;
  return minutes ? `${minutes} min ${whole % 60} s` : `${Number(seconds.toFixed(1))} s`;
}

/** The last place of the head at or before a time. */
export function placeAt(times: readonly number[], at: number): number {
  let [low, high] = [0, times.length - 1];
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    if ((times[middle] as number) <= at) low = middle;
    else high = middle - 1;
  }
  return low;
}
