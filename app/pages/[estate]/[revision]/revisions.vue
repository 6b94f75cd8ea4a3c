<template>
  <ViewOfWorld part="all" title="What differs">
    <RevisionsView />
  </ViewOfWorld>
</template>
