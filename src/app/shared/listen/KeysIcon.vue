<template>
  <!-- Three keys of a keyboard; the icon library has none. -->
  <span class="anticon" aria-hidden="true">
    <svg viewBox="0 0 16 16" width="1em" height="1em" fill="none" stroke="currentColor">
      <rect x="1.5" y="2.5" width="13" height="11" rx="1.5" />
      <path d="M6 9v4.5M10 9v4.5" />
      <path d="M4.8 3h2.4v6H4.8zM8.8 3h2.4v6H8.8z" fill="currentColor" stroke="none" />
    </svg>
  </span>
</template>
