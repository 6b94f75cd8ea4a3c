<template>
  <WaysInView />
</template>
