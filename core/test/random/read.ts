import { readEstate, type Estate } from '../../src/index'

/** An estate from the sections of a document. */
export const estateOfJson = (sections: object): Estate =>
  readEstate([
    { name: 'a', text: JSON.stringify({ format: 'salt-trail/1', name: 'Random', ...sections }) },
  ]).estate!
