import { readEstate, type Problem } from '../../src/index'

export const HEAD = 'format: salt-trail/1\nname: Try\n'

/**
 * A small estate that is valid, in lines, so that a case can add to it and say where its fault
 * stands.
 */
export const BASE = `${HEAD}regions:
  north: { zones: [n1, n2] }
  south: { zones: [s1] }
networks:
  shop: { region: north, ranges: [10.1.0.0/16, "2001:db8:1::/56"], defaultRouteTable: main }
  pier: { ranges: [10.2.0.0/16] }
subnets:
  web: { network: shop, ranges: [10.1.1.0/24], zone: n1 }
routeTables:
  main: { network: shop }
`
export const LINES = BASE.split('\n').length - 1

export const read = (text: string): readonly Problem[] =>
  readEstate([{ name: 'try.yaml', text }]).problems
