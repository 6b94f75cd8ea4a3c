import { isDiskFull } from '../database/failure'
import { refusal } from './respond'

/**
 * Saves something, whole or not at all; where the disk is full the request is told, with what to
 * do.
 */
export async function saving<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    if (!isDiskFull(error)) throw error
    throw refusal(
      507,
      'disk-full',
      'the disk that the database lies on is full: nothing was saved. Free some space there, then save again',
    )
  }
}
