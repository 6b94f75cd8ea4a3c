<template>
  <ReferenceView />
</template>
