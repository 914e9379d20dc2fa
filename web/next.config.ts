import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { NextConfig } from 'next';

// this file is compiled alone: what it shares with proxy.ts is read
const policy = JSON.parse(readFileSync(join(import.meta.dirname, 'server/policy.json'), 'utf8')) as Record<
  string,
  string
>;
const contentPolicy = Object.entries(policy)
  .map((directive) => directive.join(' '))
  .join('; ');

const config: NextConfig = {
  turbopack: { root: join(import.meta.dirname, '..') },
  transpilePackages: ['@velvet-reel/motion'],
  serverExternalPackages: ['piscina', 'mysql2', 'busboy', 'pino', 'prom-client', 'jsdom', 'dompurify'],
  poweredByHeader: false,
  // within one machine packing takes longer than what it saves
  compress: !/^http:\/\/(127\.0\.0\.1|localhost)\b/i.test(process.env.VELVET_ADDRESS ?? ''),
  devIndicators: false,
  reactStrictMode: true,
  // checked by npm test for the whole project at once
  typescript: { ignoreBuildErrors: true },
  experimental: {
    proxyClientMaxBodySize: 600 * 1024 * 1024,
    // a checkout builds once, so it need not keep what a second build could use; all four together halve what a build takes
    turbopackFileSystemCacheForBuild: false,
    turbopackSourceMaps: false,
    turbopackInputSourceMaps: false,
    turbopackMinify: { server: false, client: true },
  },
  // before anything of a page is sent, so that what the library needs loads while somebody signs in
  async redirects() {
    return [{ source: '/', destination: '/library', permanent: false }];
  },
  async headers() {
    const secure = process.env.VELVET_HTTPS === '1' || /^https:/i.test(process.env.VELVET_ADDRESS ?? '');
    return [
      {
        source: '/:path*',
        headers: [
          { key: 'x-content-type-options', value: 'nosniff' },
          { key: 'referrer-policy', value: 'same-origin' },
          { key: 'permissions-policy', value: 'camera=(), microphone=(), geolocation=(), payment=(), usb=()' },
          ...(secure ? [{ key: 'strict-transport-security', value: 'max-age=31536000' }] : []),
        ],
      },
      {
        // what is no page; pages get theirs in proxy.ts
        source: '/:path(api/.*|_next/.*|.*\\..*)',
        headers: [{ key: 'content-security-policy', value: contentPolicy }],
      },
    ];
  },
};

export default config;
