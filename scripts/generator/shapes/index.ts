import { estateOf, newDraft, type GeneratedEstate } from '../draft'
import { chains } from './chains'
import { mesh } from './mesh'
import { priority } from './priority'
import { published } from './published'
import { ruleHeavy } from './rule-heavy'
import type { MakeShape } from './shape'
import { star } from './star'
import { transit } from './transit'
import { twoFamilies } from './two-families'

/** The shapes of design part 6, each with three kinds of planted faults. */
export const SHAPES = {
  star,
  mesh,
  transit,
  'rule-heavy': ruleHeavy,
  priority,
  chains,
  'two-families': twoFamilies,
  published,
} as const satisfies Record<string, MakeShape>

export type ShapeName = keyof typeof SHAPES

/** An estate of a shape; `subnets` is its size (see the shape). */
export function generateShape(name: ShapeName, subnets: number): GeneratedEstate {
  const draft = newDraft()
  SHAPES[name](draft, subnets)
  return estateOf(draft, `Made for measuring, ${name} ${subnets}`)
}
