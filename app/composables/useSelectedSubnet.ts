/** The subnet chosen last in any view; the other views begin with it. */
export const useSelectedSubnet = () => useState<string | null>('selected-subnet', () => null)
