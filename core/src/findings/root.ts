/**
 * What decides findings. Many findings are often decided by one thing: a route that a table lacks
 * sends the traffic of every subnet that looks up there another way, and each subnet has findings
 * of its own. The thing is their root.
 */
export const ROOT_KINDS = [
  'route',
  'missing-route',
  'built-in-route',
  'learned-route',
  'ring',
  'rule',
  'missing-rule',
  'attribute',
  'missing-attribute',
  'missing-object',
  'promise',
  'unused',
  'unowned-space',
] as const
export type RootKind = (typeof ROOT_KINDS)[number]

/** The one thing that decides a finding: what has to change for it to go. */
export interface Root {
  readonly kind: RootKind
  /**
   * The object it lies in, as `section/id`; `estate` for what the estate as a whole decides.
   */
  readonly object: string
  /**
   * What of the object decides: where a route leads (`gateways/door`, `drop`), or a missing one
   * would have to (`firewalls/wall`, `internet`), a rule in words, the name of an attribute or a
   * section; empty for the object as a whole.
   */
  readonly part: string
}

/** A root as a text that no other root has. */
export const rootKey = ({ kind, object, part }: Root): string => `${kind} ${object} ${part}`

/** An attribute of an object that decides, such as the state of a gateway. */
export const attributeOf = (object: string, part: string): Root => ({
  kind: 'attribute',
  object,
  part,
})

/** An attribute or entry that an object lacks. */
export const missingIn = (object: string, part: string): Root => ({
  kind: 'missing-attribute',
  object,
  part,
})
