<template>
  <ViewOfWorld part="seen" title="What partners see otherwise">
    <AddressesView />
  </ViewOfWorld>
</template>
