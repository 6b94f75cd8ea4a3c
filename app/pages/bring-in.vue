<template>
  <BringInView />
</template>
