package tongue

// portuguese: the weekdays are counted, "sexta-feira" is the sixth; "amanhã de manhã"
// is tomorrow in the morning.
var portuguese = Tongue{
	Name: "Portuguese",
	weekdays: [7]string{"domingo; dom", "segunda; seg", "terça; ter", "quarta; qua", "quinta; qui", "sexta; sex",
		"sábado; sáb"},
	months:  [12]string{"janeiro; jan", "fevereiro; fev", "março; mar", "abril; abr", "maio; mai", "junho; jun", "julho; jul", "agosto; ago", "setembro; set", "outubro; out", "novembro; nov", "dezembro; dez"},
	numbers: [12]string{"um uma", "dois duas", "três", "quatro", "cinco", "seis", "sete", "oito", "nove", "dez", "onze", "doze"},
	tail:    "-feira",
	plain:   "ter seg sex qui mar so do da de di me mi se te os as um sem dom",
	says:    "D, # de M, às C",
	rules: `
		hoje = today
		hoje à noite = tonight
		esta noite = tonight
		hoje à tarde = this afternoon
		esta tarde = this afternoon
		hoje de manhã = this morning
		esta manhã = this morning
		amanhã = tomorrow
		amanhã de|pela manhã = tomorrow morning
		amanhã à|de tarde = tomorrow afternoon
		amanhã à|de noite = tomorrow evening
		amanhã ao? meio-dia = tomorrow noon
		depois de amanhã = the day after tomorrow
		bom dia = -
		segunda|terça|quarta|quinta|sexta vez|parte|versão|edição = -
		D de|pela manhã = D morning
		D à|de tarde = D afternoon
		D à|de noite = D evening
		D ao? meio-dia = D noon
		de|pela manhã = in the morning
		à|da tarde = in the afternoon
		à|da noite = in the evening
		depois do almoço = after lunch
		ao? meio-dia = noon
		à? meia-noite = midnight
		em|daqui a? # minuto|minutos|min = in # min
		em|daqui a? # hora|horas|h = in # hours
		em|daqui a? # dia|dias = in # days
		em|daqui a? quinze dias = in a fortnight
		em|daqui a? # semana|semanas = in # weeks
		em|daqui a? # mês|meses = in # months
		em|daqui a? # ano|anos = in # years
		em|daqui a? # dia|dias úteis|útil = in # working days
		em|daqui a? meia hora = in half an hour
		meia hora = half an hour
		uma hora e meia = 1.5 hours
		durante|por # hora|horas|h = for # hours
		durante|por # minuto|minutos|min = for # min
		# minutos|minuto = # min
		# horas|hora = # hours
		# dias|dia = # days
		# semanas|semana = # weeks
		há # minuto|minutos|hora|horas = -
		há # dia|dias = # days ago
		há # semana|semanas = # weeks ago
		há # mês|meses = # months ago
		há # ano|anos = # years ago
		na? próxima|próximo D = next D
		na? D que vem = next D
		na? D passada|passado = last D
		ontem = yesterday
		anteontem = the day before yesterday
		na? semana passada = last week
		no? mês passado = last month
		desde a|o? = since
		esta|este|nesta D = D
		D da próxima semana = D next week
		D da semana que vem = D next week
		na? próxima semana = next week
		na? semana que vem = next week
		no? próximo mês = next month
		no? mês que vem = next month
		no? próximo ano = next year
		no? ano que vem = next year
		início da próxima semana = next week
		final|fim da semana = end of the week
		final|fim da próxima semana = end of next week
		final|fim do mês = end of the month
		final|fim do próximo mês = end of next month
		final|fim do ano = end of the year
		final|fim de M = last day of M
		primeira|primeiro D de M = first D of M
		última|último D de M = last D of M
		no|o? fim de semana = the weekend
		no? próximo fim de semana = next weekend
		antes do fim de semana = before the weekend
		depois das férias = after the holidays
		semana # = week #
		às|as # e meia = half past #
		# e meia = half past #
		às|as # e quinze = quarter past #
		# e um quarto = quarter past #
		às? # menos um quarto = quarter to #
		quinze para as # = quarter to #
		dez para as # = 10 to #
		às|as|à C horas? = at C
		C horas = at C
		às|as|à C horas? da manhã = at C in the morning
		às|as|à C horas? da tarde = at C in the afternoon
		às|as|à C horas? da noite = at C in the evening
		das|entre C às|e|as C horas? = from T to T
		de # a # de M = from # to # M
		dia? # de M de # = # M #
		dia? # de M = # M
		no dia # = on the #
		na|no D = on D
		no mais tardar = by
		o mais tardar = by
		até o|a|ao|à|às|as|dia? = by
		antes de|da|do D = before D
		para D = by D
		toda|todas|todo|todos as|os? D = every D
		cada semana = every week
		toda semana = every week
		todo mês = every month
		todos os dias = every day
		a? cada # dias = every # days
		a? cada # semanas = every # weeks
		a? cada # meses = every # months`,
}
