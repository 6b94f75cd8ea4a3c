<template>
  <ViewOfWorld part="exits" title="Ways out that differ">
    <ExitsView />
  </ViewOfWorld>
</template>
