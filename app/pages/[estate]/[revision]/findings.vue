<template>
  <ViewOfWorld part="findings" title="Findings that come and go">
    <FindingsView />
  </ViewOfWorld>
</template>
