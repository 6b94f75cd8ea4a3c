export default async function teardown() {
  await globalThis.saltTrailWorld?.stop()
}
