/** Every view with the demo, by what it shows. */
export const VIEWS = {
  exits: '/halite-ferries/head/exits',
  'opened columns': '/halite-ferries/head/exits?open=services,sites&by=zone',
  'a lost trace': '/halite-ferries/head/trace?from=interface:seat-plan-2&to=internet&over=tcp+443',
  'a trace beside another':
    '/halite-ferries/head/trace?from=interface:banner-1&to=internet&over=tcp+443&beside=booking-1',
  'a working trace':
    '/halite-ferries/head/trace?from=interface:seat-plan-1&to=internet&over=tcp+443',
  'an empty trace': '/halite-ferries/head/trace',
  findings: '/halite-ferries/head/findings',
  'next hops': '/halite-ferries/head/next-hops?subnet=crew-roster-1',
  'two subnets’ next hops': '/halite-ferries/head/next-hops?subnet=crew-roster-1&with=crew-desk-1',
  'ways in': '/halite-ferries/head/ways-in?by=subnet',
  'networks among each other': '/halite-ferries/head/ways-in?show=networks&network=crew&to=hub',
  'ways into a subnet': '/halite-ferries/head/ways-in?subnet=ticketing-web-1',
  'a question by port':
    '/halite-ferries/head/trace?from=interface:pay-1&to=10.44.3.10&over=tcp+400-500',
  expectations: '/halite-ferries/head/expectations',
  'the matrix turned, columns open':
    '/halite-ferries/head/exits?turned=entering&open=sites,otherNetworks',
  'next hops of two revisions':
    '/halite-ferries/3/next-hops?subnet=crew-roster-1&with=crew-roster-1&of=2',
  'the map':
    '/halite-ferries/head/map?from=interface:roster-1&to=interface:tide-gauge-1&over=tcp+8443&at=networks/crew',
  'addresses that are seen': '/halite-ferries/head/addresses?to=party:fuel-broker',
  'address space': '/halite-ferries/head/addresses?half=space&carve=10.60.0.0/16&into=4',
  revisions: '/halite-ferries/head/revisions',
  drafts: '/halite-ferries/head/draft',
  'a draft': '/halite-ferries/draft-1/draft',
  'an object in a draft': '/halite-ferries/draft-1/draft?do=edit&object=nats/nat-telemetry',
  'an object’s text in a draft':
    '/halite-ferries/draft-1/draft?do=edit&object=nats/nat-telemetry&as=text',
  'moves in a draft': '/halite-ferries/draft-1/draft?do=move&subnets=crew-desk-1',
  'the plan of a draft': '/halite-ferries/draft-1/draft?do=plan',
  'saving a draft': '/halite-ferries/draft-1/draft?do=save',
  'the difference of a draft': '/halite-ferries/draft-1/exits?against=base',
  'the difference of a draft on the map': '/halite-ferries/draft-1/map?against=base',
  'who comes in otherwise in a draft':
    '/halite-ferries/draft-2/ways-in?against=base&subnet=ticketing-web-1',
  'an object': '/halite-ferries/head/object?of=firewalls/harbour-wall',
  'the report': '/halite-ferries/head/report',
  'the reference': '/reference?of=routeTables',
  'codes of findings': '/reference?of=findings',
  'bring in': '/bring-in?into=halite-ferries',
  'an error': '/nowhere/head/exits',
}
