<template>
  <ObjectView />
</template>
