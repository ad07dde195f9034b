package tongue

// dutch: "half drie" is half an hour before three; "morgen" is tomorrow, and the
// morning after a weekday.
var dutch = Tongue{
	Name:     "Dutch",
	weekdays: [7]string{"zondag zondags; zo", "maandag; ma", "dinsdag; di", "woensdag; wo woe", "donderdag; do", "vrijdag; vr vrij", "zaterdag; za zat"},
	months:   [12]string{"januari; jan", "februari; feb", "maart; mrt", "april; apr", "mei", "juni; jun", "juli; jul", "augustus; aug", "september; sep sept", "oktober; okt", "november; nov", "december; dec"},
	numbers:  [12]string{"een één", "twee", "drie", "vier", "vijf", "zes", "zeven", "acht", "negen", "tien", "elf", "twaalf"},
	joined:   "avond=evening middag=afternoon ochtend=morning morgen=morning namiddag=afternoon voormiddag=morning nacht=evening",
	plain:    "do di ma so zo of we wo an al er me mi te en in op om man ten mei van",
	says:     "D # M om C uur",
	rules: `
		vandaag = today
		vanavond|vannacht = tonight
		vanmiddag|vannamiddag = this afternoon
		vanochtend|vanmorgen = this morning
		morgen = tomorrow
		morgenochtend|morgenvroeg = tomorrow morning
		morgen ochtend|vroeg = tomorrow morning
		morgenmiddag = tomorrow afternoon
		morgen middag = tomorrow afternoon
		morgenavond = tomorrow evening
		morgen avond = tomorrow evening
		overmorgen = the day after tomorrow
		goede|goeie morgen|avond|middag = -
		goedemorgen|goedemiddag|goedenavond = -
		D ochtend|morgen|vroeg = D morning
		D middag = D afternoon
		D avond = D evening
		's ochtends|morgens = in the morning
		's middags = in the afternoon
		's avonds = in the evening
		in de ochtend = in the morning
		in de middag = in the afternoon
		in de avond = in the evening
		na de? lunch = after lunch
		twaalf uur 's? middags = noon
		middernacht = midnight
		om middernacht = midnight
		over # minuut|minuten|min = in # min
		over # uur|uren|u = in # hours
		over # dag|dagen = in # days
		over # week|weken = in # weeks
		over # maand|maanden = in # months
		over # jaar = in # years
		over # werkdag|werkdagen = in # working days
		over een half uur = in half an hour
		een half uur = half an hour
		anderhalf uur = 1.5 hours
		over anderhalf uur = in 1.5 hours
		gedurende|voor # uur|uren = for # hours
		gedurende|voor # minuten|min = for # min
		# minuten|minuut = # min
		# dagen|dag = # days
		# weken|week = # weeks
		# uren = # hours
		# minuut|minuten|uur geleden = -
		# dag|dagen geleden = # days ago
		# week|weken geleden = # weeks ago
		# maand|maanden geleden = # months ago
		# jaar geleden = # years ago
		volgende|volgend D = next D
		komende|aanstaande D = D
		D aanstaande|as = D
		deze D = D
		afgelopen|vorige D = last D
		gisteren = yesterday
		eergisteren = the day before yesterday
		vorige|afgelopen week = last week
		vorige maand = last month
		sinds = since
		D volgende week = D next week
		D over een week = D in a week
		volgende|komende week = next week
		volgende|komende maand = next month
		volgend|komend jaar = next year
		begin volgende week = next week
		eind|einde van? de|deze? week = end of the week
		eind|einde volgende week = end of next week
		eind|einde van? de|deze? maand = end of the month
		eind|einde volgende maand = end of next month
		eind|einde van? het|dit? jaar = end of the year
		eind M = last day of M
		eerste D van|in M = first D of M
		laatste D van|in M = last D of M
		in? het|dit? weekend = the weekend
		volgend|komend weekend = next weekend
		voor het weekend = before the weekend
		na de vakantie|feestdagen = after the holidays
		week # = week #
		om? half # = half past #-1
		om? kwart over # = quarter past #
		om? kwart voor # = quarter to #
		om? vijf voor half # = 25 past #-1
		om? vijf over half # = 25 to #
		om? tien voor # = 10 to #
		om? tien over # = 10 past #
		om? vijf voor # = 5 to #
		om? vijf over # = 5 past #
		om|rond|vanaf C uur|u? = at C
		C uur|u = C
		om? C uur 's ochtends|morgens = at C in the morning
		om? C uur 's middags = at C in the afternoon
		om? C uur 's avonds = at C in the evening
		van|tussen C tot|en C uur|u? = from T to T
		van # tot|t/m # M = from # to # M
		op D = on D
		op = on
		uiterlijk op? = by
		tot en met = by
		tot = by
		vóór|voor D = before D
		vóór|voor # M = before # M
		elke|iedere D = every D
		elke week = every week
		elke maand = every month
		elke dag = every day
		elke|om de? # dagen = every # days
		elke # weken = every # weeks
		elke # maanden = every # months`,
}
