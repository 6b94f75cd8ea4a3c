/**
 * How finely an analysis cuts its cached values, chosen once, when its caches are made.
 *
 * - `coarse`: a value serves as many askers as possible, which is the least work for one analysis.
 * - `fine`: values are small and rest on little, so that a change of the estate invalidates few;
 *   for an analysis that is kept and changed.
 *
 * Both give the same answers; a property test holds them equal. Where the two differ by more than
 * what is cached, an algorithm has one function for each, in a record by grain.
 */
export type Grain = 'coarse' | 'fine'
