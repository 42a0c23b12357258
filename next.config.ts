import type { NextConfig } from 'next';

const config: NextConfig = {
  serverExternalPackages: ['sequelize', 'sqlite3', 'umzug', 'node-liblzma', '@bokuweb/zstd-wasm'],
  poweredByHeader: false,
  reactStrictMode: true,
  devIndicators: false,
  // a pasted property dump may be as long as the facts reader takes
  experimental: { serverActions: { bodySizeLimit: '6mb' } },
  // types are checked by `npm test`, for core and the whole, before anything is built
  typescript: { ignoreBuildErrors: true },
};
export default config;
