/**
 * How many random cases a property looks at: what an everyday run has time for, or as many as
 * SALT_TRAIL_RANDOM_ESTATES sets.
 */
export const runs = (usual: number): number =>
  Number(process.env.SALT_TRAIL_RANDOM_ESTATES ?? usual)
