<template>
  <MapView />
</template>
