import { withoutWayOut } from './holes/nat-without-way-out'
import { check } from './survey'
import { presentOf } from '../model/present'

import { capacity } from './weak-spots/nat-capacity'

/** What is said of a translator by itself. */
export const checkNats = check(
  'elements',
  ({ model }) => presentOf(model, 'nats'),
  (survey, index) => [
    ...withoutWayOut(survey, survey.model.nats[index]!),
    ...capacity(survey, survey.model.nats[index]!),
  ],
)
