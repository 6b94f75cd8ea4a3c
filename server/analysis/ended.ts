/** An analysis that did not finish: it failed, took too long, or was stopped. */
export class AnalysisEnded extends Error {
  constructor(
    readonly state: 'failed' | 'stopped',
    message: string,
  ) {
    super(message)
  }
}
