<template>
  <div class="empty">
    <b>There is nothing under this address</b>It may have been typed wrongly.<RouterLink class="btn" to="/dockets"
      >To the dockets</RouterLink
    >
  </div>
</template>
