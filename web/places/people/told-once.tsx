'use client';

import { Copy } from 'lucide-react';
import { toast } from 'sonner';
import { Button } from '@/ui/button';
import { toldOnce as texts } from './texts';

/** A secret that is shown only now, to be copied. */
export function ToldOnce({ text }: { text: string }) {
  return (
    <div className="flex items-center gap-2">
      <code className="min-w-0 flex-1 break-all rounded-md border border-line bg-raised p-2">{text}</code>
      <Button onClick={() => void navigator.clipboard.writeText(text).then(() => toast(texts.copied))}>
        <Copy size={14} /> {texts.copy}
      </Button>
    </div>
  );
}
