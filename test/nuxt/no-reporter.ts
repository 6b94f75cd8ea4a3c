/** In place of a package's reporter to a development server, which the tests have none of. */
export const createDevReporter = () => () => undefined
