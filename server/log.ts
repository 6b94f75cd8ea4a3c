import { pino } from 'pino'

/** The server's log: one line of JSON each, on standard error, so that standard output stays for the address. */
export const log = pino({ level: process.env.SALT_TRAIL_LOG ?? 'info' }, pino.destination(2))
