/**
 * The names and addresses of the loopback interface (RFC 6761, RFC 1122, RFC 4291), as a Host
 * header has them.
 */
const LOOPBACK = /^(localhost|127(\.\d{1,3}){3}|\[::1\])$/

/** Whether an address of a connection is one of the loopback interface. */
export const isLoopback = (address: string): boolean =>
  /^(127(\.\d{1,3}){3}|::1|::ffff:127(\.\d{1,3}){3})$/.test(address)

/**
 * Whether a Host header names the loopback interface or one of some configured names, on any port.
 */
export function isKnownHost(header: string | undefined, names: readonly string[]): boolean {
  const name = header?.toLowerCase().replace(/:\d+$/, '')
  return name !== undefined && (LOOPBACK.test(name) || names.includes(name))
}
