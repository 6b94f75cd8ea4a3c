<template>
  <TraceView />
</template>
