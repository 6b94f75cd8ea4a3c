<template>
  <FindingsView />
</template>
