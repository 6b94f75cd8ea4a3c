<template>
  <RevisionsView />
</template>
