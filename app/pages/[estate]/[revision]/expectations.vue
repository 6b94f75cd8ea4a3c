<template>
  <ExpectationsView />
</template>
