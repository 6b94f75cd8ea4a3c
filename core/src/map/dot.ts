import { MAP_COLUMNS, type EstateGraph, type MapNode } from './node'

const quoted = (text: string): string => `"${text.replace(/["\\]/g, '\\$&')}"`
const nameOf = (ref: string): string => ref.slice(ref.indexOf('/') + 1)

/** The shapes of kinds, so that they stay apart in any drawing of the text. */
const SHAPES: Record<string, string> = {
  internet: 'ellipse',
  site: 'house',
  party: 'ellipse',
  service: 'cylinder',
  network: 'box',
  gateway: 'cds',
  firewall: 'octagon',
}

/** The map in Graphviz’s DOT language, columns as ranks, networks as clusters of their subnets. */
export function graphDot(graph: EstateGraph, name: string): string {
  const lines = [`graph ${quoted(name)} {`, '  rankdir=LR;', '  node [shape=box];']
  for (const column of MAP_COLUMNS) {
    const own = graph.nodes.filter((node) => node.column === column)
    const flat = own.filter(({ subnets }) => subnets === null || subnets.length === 0)
    if (flat.length > 0) {
      if (column !== 'networks') lines.push('  { rank=same;')
      for (const node of flat) lines.push(`    ${nodeLine(node)}`)
      if (column !== 'networks') lines.push('  }')
    }
    for (const node of own) {
      if (!node.subnets || node.subnets.length === 0) continue
      lines.push(
        `  subgraph ${quoted(`cluster ${node.ref}`)} {`,
        `    label=${quoted(`${nameOf(node.ref)}\n${node.about}`)};`,
      )
      lines.push(`    ${quoted(node.ref)} [shape=point];`)
      for (const subnet of node.subnets)
        lines.push(
          `    ${quoted(subnet.ref)} [label=${quoted(`${nameOf(subnet.ref)}\n${subnet.zone}${subnet.role ? `, ${subnet.role}` : ''}`)}];`,
        )
      lines.push('  }')
    }
  }
  for (const { from, to, by } of graph.edges)
    lines.push(
      `  ${quoted(from)} -- ${quoted(to)}${by === null ? '' : ` [label=${quoted(nameOf(by))}]`};`,
    )
  return `${lines.join('\n')}\n}\n`
}

const nodeLine = ({ ref, kind, about, up }: MapNode): string =>
  `${quoted(ref)} [label=${quoted(`${nameOf(ref)}\n${kind === 'internet' ? '' : about}`.trim())}, shape=${SHAPES[kind] ?? 'box'}${up ? '' : ', style=dashed'}];`
