<template>
  <ViewOfWorld part="packets" title="What opens and what is cut">
    <WaysInView />
  </ViewOfWorld>
</template>
