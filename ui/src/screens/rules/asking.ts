import { useQuery } from '@tanstack/react-query'
import { get } from '../../api/client'
import type { DidView, OfferView, RuleView, Suggested, Written } from '../../api/desk'

export const useRules = () => useQuery({ queryKey: ['rules'], queryFn: () => get<RuleView[]>('/rules') })
export const useOffers = () =>
  useQuery({ queryKey: ['rules', 'offers'], queryFn: () => get<OfferView[]>('/rules/offers'), staleTime: 0 })
export const useDid = (rule: number) =>
  useQuery({ queryKey: ['rules', 'did', rule], queryFn: () => get<DidView[]>(`/rules/${rule}/did`) })
export const useRuleLike = (conversation: number) =>
  useQuery({
    queryKey: ['rules', 'like', conversation],
    queryFn: () => get<Suggested>('/rules/like/' + conversation),
    enabled: !!conversation,
    staleTime: 0,
  })
/** A rule that is being written, as it is read, with its proof. */
export const useReadRule = (id: number, words: string, span: number) =>
  useQuery({
    queryKey: ['rules', 'read', id, words, span],
    queryFn: ({ signal }) =>
      get<Written>(
        '/rules/read?' + new URLSearchParams({ id: String(id), words, span: String(span) }).toString(),
        signal,
      ),
    enabled: !!words.trim(),
    placeholderData: (before) => before,
    staleTime: 0,
  })
