import { readFileSync, rmSync, statSync } from 'node:fs'
import { jest } from '@jest/globals'
import { main } from '../../cli/main'
import { demo } from './running'

test('an error that nobody foresaw is one sentence; its details are in a file of its own', () => {
  const write = jest.spyOn(process.stderr, 'write').mockReturnValue(true)
  const out = jest.spyOn(process.stdout, 'write').mockImplementation(() => {
    throw new TypeError('nobody thought of this')
  })
  const status = main(['hops', '--json', ...demo])
  out.mockRestore()
  const said = write.mock.calls.map(([text]) => String(text)).join('')
  write.mockRestore()
  expect(status).toBe(2)
  const [, id, file] =
    /^salt-trail: this could not be done: nobody thought of this \(error (\w+)\); the details are in (\S+)\n$/.exec(
      said,
    ) ?? []
  expect(file).toContain(id)
  expect(readFileSync(file!, 'utf8')).toMatch(/^TypeError: nobody thought of this\n {4}at /)
  expect(statSync(file!).mode & 0o777).toBe(0o600)
  rmSync(file!)
})
