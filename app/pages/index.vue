<template><div>hello</div></template>
