<template>
  <ViewOfWorld part="expectations" title="Expectations that turn">
    <ExpectationsView />
  </ViewOfWorld>
</template>
