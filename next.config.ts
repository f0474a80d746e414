import type { NextConfig } from 'next';

const config: NextConfig = {
  serverExternalPackages: ['@libsql/client', 'libsql'],
  devIndicators: false,
  poweredByHeader: false,
};

export default config;
