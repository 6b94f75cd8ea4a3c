/**
 * SARIF 2.1.0 as a JSON Schema (draft 7), written after the text of the standard (OASIS, section 3)
 * for the objects that a log of ours may have: which properties an object has, which are required,
 * and what their values may be. Nothing else is allowed, so that a slip of a name is noticed.
 */
const text = { type: 'string' } as const
const index = { type: 'integer', minimum: -1 } as const
const object = (required: readonly string[], properties: Record<string, unknown>) => ({
  type: 'object',
  additionalProperties: false,
  required,
  properties,
})
const list = (of: unknown, about: Record<string, unknown> = {}) => ({
  type: 'array',
  items: of,
  ...about,
})
const ref = (name: string) => ({ $ref: `#/definitions/${name}` })

export const SARIF_SCHEMA = {
  $schema: 'http://json-schema.org/draft-07/schema#',
  ...object(['version', 'runs'], {
    $schema: { type: 'string', format: 'uri' },
    version: { enum: ['2.1.0'] },
    runs: list(ref('run')),
    properties: ref('propertyBag'),
  }),
  definitions: {
    // 3.8
    propertyBag: {
      type: 'object',
      additionalProperties: true,
      properties: { tags: list(text, { uniqueItems: true }) },
    },
    // 3.14
    run: object(['tool'], {
      tool: ref('tool'),
      columnKind: { enum: ['utf16CodeUnits', 'unicodeCodePoints'] },
      results: list(ref('result')),
      properties: ref('propertyBag'),
    }),
    // 3.18
    tool: object(['driver'], { driver: ref('toolComponent'), properties: ref('propertyBag') }),
    // 3.19
    toolComponent: object(['name'], {
      name: text,
      version: text,
      semanticVersion: text,
      informationUri: { type: 'string', format: 'uri' },
      rules: list(ref('reportingDescriptor'), { uniqueItems: true }),
      properties: ref('propertyBag'),
    }),
    // 3.49
    reportingDescriptor: object(['id'], {
      id: text,
      name: text,
      shortDescription: ref('multiformatMessageString'),
      fullDescription: ref('multiformatMessageString'),
      helpUri: { type: 'string', format: 'uri' },
      properties: ref('propertyBag'),
    }),
    // 3.12
    multiformatMessageString: object(['text'], {
      text,
      markdown: text,
      properties: ref('propertyBag'),
    }),
    // 3.11: a text of its own, or the id of one of the rule's.
    message: {
      ...object([], {
        text,
        markdown: text,
        id: text,
        arguments: list(text),
        properties: ref('propertyBag'),
      }),
      anyOf: [{ required: ['text'] }, { required: ['id'] }],
    },
    // 3.27
    result: object(['message'], {
      ruleId: text,
      ruleIndex: index,
      kind: { enum: ['notApplicable', 'pass', 'fail', 'review', 'open', 'informational'] },
      level: { enum: ['none', 'note', 'warning', 'error'] },
      message: ref('message'),
      locations: list(ref('location')),
      fingerprints: { type: 'object', additionalProperties: text },
      partialFingerprints: { type: 'object', additionalProperties: text },
      properties: ref('propertyBag'),
    }),
    // 3.28
    location: object([], {
      id: index,
      physicalLocation: ref('physicalLocation'),
      logicalLocations: list(ref('logicalLocation'), { uniqueItems: true }),
      message: ref('message'),
      properties: ref('propertyBag'),
    }),
    // 3.29: an artifact or an address has to be said.
    physicalLocation: {
      ...object([], {
        artifactLocation: ref('artifactLocation'),
        region: ref('region'),
        properties: ref('propertyBag'),
      }),
      anyOf: [{ required: ['artifactLocation'] }, { required: ['address'] }],
    },
    // 3.4
    artifactLocation: object([], {
      uri: { type: 'string', format: 'uri-reference' },
      uriBaseId: text,
      index,
      properties: ref('propertyBag'),
    }),
    // 3.30
    region: object([], {
      startLine: { type: 'integer', minimum: 1 },
      startColumn: { type: 'integer', minimum: 1 },
      endLine: { type: 'integer', minimum: 1 },
      endColumn: { type: 'integer', minimum: 1 },
      properties: ref('propertyBag'),
    }),
    // 3.33
    logicalLocation: object([], {
      name: text,
      fullyQualifiedName: text,
      kind: text,
      index,
      properties: ref('propertyBag'),
    }),
  },
} as const
