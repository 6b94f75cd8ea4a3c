import { useQuery } from '@pinia/colada'
import type { FieldSchema } from '~/views/draft/field-schema'

/**
 * The schema of the objects of a section, or of a section that is edited as one, from the published
 * one; null until it is there.
 */
export function useObjectSchema(section: () => string) {
  const { data } = useQuery<FieldSchema>({
    key: ['schema'],
    query: () => $fetch<FieldSchema>('/schemas/salt-trail-1.json'),
  })
  const schema = computed(() => {
    const own = data.value?.properties?.[section()]
    const entry = own?.additionalProperties
    return typeof entry === 'object' ? entry : (own ?? null)
  })
  return { schema }
}
