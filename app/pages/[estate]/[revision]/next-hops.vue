<template>
  <NextHopsView />
</template>
