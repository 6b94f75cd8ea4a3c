<template>
  <ReportView />
</template>
