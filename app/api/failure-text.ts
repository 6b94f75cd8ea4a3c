/** What went wrong with a request, in the server's own words where it has some. */
export function failureText(error: unknown): string {
  const failure = error as {
    data?: { data?: { message?: string }; message?: string }
    statusCode?: number
    message?: string
  }
  return (
    failure.data?.data?.message ??
    failure.data?.message ??
    (failure.statusCode === undefined
      ? 'The server does not answer. Is it running?'
      : (failure.message ?? 'The request failed.'))
  )
}
