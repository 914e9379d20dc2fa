import { useMutation } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useRefresh } from '@/client/queries';
import type { CastMember, Item } from '@/contract';
import { useKeepDrawings as texts } from '../texts';

/** Keeps drawings of a figure's parts as an item of the library, and says where it is. */
export function useKeepDrawings(member: CastMember) {
  const refresh = useRefresh();
  const router = useRouter();
  return useMutation({
    mutationFn: (wish: { name: string; parts: readonly string[] }) =>
      sendJson<{ item: Item }>('POST', `${API}/cast/${member.id}/drawing-sets`, wish),
    onSuccess: ({ item }) => {
      refresh();
      toast(texts.keptInTheLibrary(item.name), {
        action: { label: texts.show, onClick: () => router.push(`/library?item=${item.id}`) },
      });
    },
    onError: (error) => toast.error(error.message),
  });
}
