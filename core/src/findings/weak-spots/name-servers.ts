import { missingIn } from '../root'
import { formatAddress } from '../../address/address'
import { nameServersOf } from '../../trace/names'
import { isRefusal } from '../../trace/question'
import { trace } from '../../trace/trace'
import { finding } from '../finding'
import { check, fromText, listText } from '../survey'
import { presentOf } from '../../model/present'

/** A network’s own name servers that its subnets cannot ask. */

export const checkNameServers = check(
  'upkeep',
  ({ model }) => presentOf(model, 'networks'),
  (survey, index) => {
    const { model } = survey
    const network = model.networks[index]!
    return nameServersOf(model, index).flatMap((server) => {
      const cut = network.subnets
        .map((one) => model.subnets[one]!)
        .filter((subnet) => {
          if (!subnet.up) return false
          const [table] = survey.tablesOf(subnet)
          if (!table) return false
          const answer = trace(
            model,
            {
              from: fromText(model, subnet, table),
              to: formatAddress(server),
              protocol: 'udp',
              port: 53,
            },
            { evidence: false },
          )
          return !isRefusal(answer) && answer.verdict !== 'works'
        })
      if (cut.length === 0) return []
      const [first] = cut
      return [
        finding({
          code: 'odd-name-server',
          severity: 'medium',
          anchor: network.ref,
          objects: [...cut.map((subnet) => subnet.ref), network.ref],
          sentence: `${listText(cut.map((subnet) => subnet.id))} cannot reach ${formatAddress(server)}, the name server of ${network.id}, on port 53.`,
          root: missingIn(network.ref, 'nameServers'),
          part: formatAddress(server),
          ranges: [formatAddress(server)],
          question: {
            from: fromText(model, first!, survey.tablesOf(first!)[0]!),
            to: formatAddress(server),
            protocol: 'udp',
            port: 53,
          },
        }),
      ]
    })
  },
)
