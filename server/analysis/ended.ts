/** An analysis that did not come to its end: it failed, took too long, or somebody stopped it. */
export class AnalysisEnded extends Error {
  constructor(
    readonly state: 'failed' | 'stopped',
    message: string,
  ) {
    super(message)
  }
}
