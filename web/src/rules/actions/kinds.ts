import type { Action, ApplyAction, RemoveAction, SendAction, TidyAction } from '@vast-knot/core';

export const isRemove = (action: Action): action is RemoveAction => action.kind === 'remove';
export const isSend = (action: Action): action is SendAction => action.kind === 'send';
export const isTidy = (action: Action): action is TidyAction => action.kind === 'tidy';
export const isApply = (action: Action): action is ApplyAction => action.kind === 'apply';
