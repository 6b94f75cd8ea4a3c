import type { Lasting } from '@salt-trail/core'

/**
 * How long an address can be relied on, in a word and in a sentence; and whether to tell a partner
 * of it.
 */
export const LASTING: Record<
  Lasting,
  { readonly word: string; readonly means: string; readonly lasts: boolean }
> = {
  reserved: { word: 'reserved', means: 'Reserved: it stays, whatever uses it.', lasts: true },
  kept: { word: 'kept', means: 'It stays for as long as what gives it is there.', lasts: true },
  draining: {
    word: 'draining',
    means: 'It takes no new flows; those that are open still end by it.',
    lasts: false,
  },
  automatic: {
    word: 'may change',
    means: 'It is given automatically and may change by itself.',
    lasts: false,
  },
  'with-host': {
    word: 'goes with its host',
    means: 'It is not reserved: when the host goes, it goes.',
    lasts: false,
  },
  unforeseeable: {
    word: 'unforeseeable',
    means: 'Nobody can foresee which address it will be.',
    lasts: false,
  },
  own: { word: 'its own', means: 'Hosts keep their own addresses.', lasts: true },
}
