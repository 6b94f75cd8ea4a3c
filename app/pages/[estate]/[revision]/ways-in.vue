<template>
  <ViewOfWorld part="packets" title="What opens and what is cut">
    <WaysInView />
    <template #difference="{ since }">
      <WaysInDifference :since="since" />
    </template>
  </ViewOfWorld>
</template>
