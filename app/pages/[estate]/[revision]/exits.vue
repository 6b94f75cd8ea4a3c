<template>
  <ExitsView />
</template>
