<template>
  <ViewOfWorld part="all" title="What differs">
    <MapView />
  </ViewOfWorld>
</template>
