/** While the keys walk the map, what stands beside it is not drawn anew for each stop on the way. */
export function standsStill(_: unknown, next: { walking: boolean }): boolean {
  return next.walking;
}
