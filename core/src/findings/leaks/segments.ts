import type { Model } from '../../model/model'
import { finding } from '../finding'
import { check, nameOf } from '../survey'
import { separations } from '../holes/no-way-out'

/** Segments that are expected to be apart, and are not. */
export const checkSegments = check(
  'segments',
  ({ model }) => separations(model),
  ({ model, expectation }, id) => {
    const result = expectation(id)
    if (
      result.state !== 'broken' ||
      !result.from ||
      !result.to ||
      !isInside(result.from) ||
      !isInside(result.to)
    )
      return []
    const subnet = subnetOfRef(model, result.from)
    return [
      finding({
        code: 'leak-segment',
        severity: 'critical',
        anchor: subnet,
        objects: [subnet, result.from, result.to, `expectations/${result.id}`],
        sentence: `${result.id} expects ${nameOf(result.from)} and ${nameOf(result.to)} to be apart, but a packet gets from one to the other.`,
        root: { kind: 'promise', object: `expectations/${result.id}`, part: '' },
        part: result.id,
        ...(result.packet
          ? {
              packet: result.packet,
              question: {
                from: result.from.startsWith('interfaces/')
                  ? `interface:${nameOf(result.from)}`
                  : result.packet.src,
                to: result.packet.dst,
                protocol: result.packet.protocol,
                port: result.packet.dstPort,
                sourcePort: result.packet.srcPort,
              },
            }
          : {}),
        facts: result.because === null ? [] : [result.because],
      }),
    ]
  },
)

const isInside = (ref: string): boolean => /^(interfaces|subnets|frontends)\//.test(ref)

function subnetOfRef(model: Model, ref: string): string {
  if (ref.startsWith('subnets/')) return ref
  const index = ref.startsWith('interfaces/')
    ? model.interfaces[model.index.interfaces.get(nameOf(ref)) ?? -1]?.subnet
    : model.frontends[model.index.frontends.get(nameOf(ref)) ?? -1]?.subnet
  return model.subnets[index ?? -1]?.ref ?? ref
}
