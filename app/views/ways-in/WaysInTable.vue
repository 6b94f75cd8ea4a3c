<script setup lang="ts">
/** The head of a table of ways in; its rows are `WayInRow`. */
</script>

<template>
  <table class="w-full border-collapse">
    <thead>
      <tr class="border-b border-ink text-left text-xs text-soft">
        <th class="w-44 py-1.5 pl-4 font-medium">from</th>
        <th class="w-56 py-1.5 font-medium">to</th>
        <th class="w-44 py-1.5 font-medium">on</th>
        <th class="w-64 py-1.5 font-medium">through</th>
        <th class="py-1.5 pr-4 font-medium">rules that let it in</th>
      </tr>
    </thead>
    <tbody>
      <slot />
    </tbody>
  </table>
</template>
