<template>
  <AddressesView />
</template>
