<template>
  <div class="inner"><h1>Not here</h1><p>There is no page at this address. <RouterLink to="/">To the shelf</RouterLink></p></div>
</template>
