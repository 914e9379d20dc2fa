import { join } from 'node:path';
import type { NextConfig } from 'next';

const config: NextConfig = {
  turbopack: { root: join(import.meta.dirname, '..') },
  transpilePackages: ['@velvet-reel/motion'],
  serverExternalPackages: ['piscina', 'mysql2', 'busboy', 'pino', 'prom-client', 'jsdom', 'dompurify'],
  poweredByHeader: false,
  devIndicators: false,
  reactStrictMode: true,
  // checked by npm test for the whole project at once
  typescript: { ignoreBuildErrors: true },
  experimental: { proxyClientMaxBodySize: 600 * 1024 * 1024 },
  async headers() {
    const policy = [
      "default-src 'self'",
      "img-src 'self' data: blob:",
      "style-src 'self' 'unsafe-inline'",
      // meshes are made lighter by a package that is compiled for the browser
      "script-src 'self' 'unsafe-inline' 'wasm-unsafe-eval'",
      "connect-src 'self' blob: data:",
      "worker-src 'self' blob:",
      "font-src 'self'",
      "object-src 'none'",
      "base-uri 'none'",
      "frame-ancestors 'none'",
      "form-action 'self'",
    ];
    const secure = process.env.VELVET_HTTPS === '1' || /^https:/i.test(process.env.VELVET_ADDRESS ?? '');
    if (process.env.NODE_ENV === 'development') policy[3] += " 'unsafe-eval'";
    return [
      {
        source: '/:path*',
        headers: [
          { key: 'content-security-policy', value: policy.join('; ') },
          { key: 'x-content-type-options', value: 'nosniff' },
          { key: 'referrer-policy', value: 'same-origin' },
          { key: 'permissions-policy', value: 'camera=(), microphone=(), geolocation=(), payment=(), usb=()' },
          ...(secure ? [{ key: 'strict-transport-security', value: 'max-age=31536000' }] : []),
        ],
      },
    ];
  },
};

export default config;
