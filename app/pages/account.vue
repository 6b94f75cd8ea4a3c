<template><AccountView /></template>
