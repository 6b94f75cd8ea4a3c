<template>
  <DraftView />
</template>
