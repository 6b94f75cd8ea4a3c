import { check } from './survey'
import { presentOf } from '../model/present'

import { deadTargets } from './holes/dead-targets'
import { shadowedRoutes } from './weak-spots/shadowed-routes'
import { steersNothing } from './weak-spots/steers-nothing'

/** What is wrong with routes as they are written, table by table. */
export const checkRoutes = check(
  'routes',
  ({ model }) => presentOf(model, 'routeTables'),
  (survey, index) => {
    const table = survey.model.tables[index]!
    if (survey.model.networks[table.network] === undefined) return []
    return [
      ...deadTargets(survey, table),
      ...shadowedRoutes(survey, table),
      ...steersNothing(survey, table),
    ]
  },
)
