import { logLevel } from './config'
import { pino } from 'pino'

/**
 * The server's log: one line of JSON each, on standard error, so that standard output stays for the
 * address.
 */
export const log = pino({ level: logLevel() }, pino.destination(2))
