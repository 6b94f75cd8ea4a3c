export type Json = Record<string, unknown>

/** An estate that is being made, and what was planted in it. */
export interface Draft {
  readonly sections: Record<string, Json>
  readonly planted: { readonly fault: string; readonly object: string }[]
  readonly put: (section: string, id: string, object: Json) => void
  /** Notes that an object has a fault on purpose; `object` as `section/id`. */
  readonly plant: (fault: string, object: string) => void
}

export interface GeneratedEstate {
  readonly estate: Json
  /** The faults that were put in on purpose, each with the object to look at. */
  readonly planted: readonly { readonly fault: string; readonly object: string }[]
}

export function newDraft(): Draft {
  const sections: Record<string, Json> = {}
  const planted: { fault: string; object: string }[] = []
  return {
    sections,
    planted,
    put: (section, id, object) => void ((sections[section] ??= {})[id] = object),
    plant: (fault, object) => void planted.push({ fault, object }),
  }
}

/** The estate as it is written to a file; `rest` are sections that are lists or single objects. */
export const estateOf = (draft: Draft, name: string, rest: Json = {}): GeneratedEstate => ({
  estate: { format: 'salt-trail/1', name, ...draft.sections, ...rest },
  planted: draft.planted,
})
