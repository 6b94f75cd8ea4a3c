/** The subnet somebody chose last, in whichever view: the others begin with it. */
export const useSelectedSubnet = () => useState<string | null>('selected-subnet', () => null)
