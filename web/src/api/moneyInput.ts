import type { MoneyInput, MoneyTerms } from "@jar-count/core/contract";

/** What costs go by as a person writes it, without what the server itself keeps of it. */
export const moneyInputOf = ({ version: _version, made: _made, ...money }: MoneyTerms): MoneyInput => money;
