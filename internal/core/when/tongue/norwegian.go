package tongue

// norwegian: "halv tre" is half an hour before three, "til fredag" the Friday to come.
var norwegian = Tongue{
	Name:     "Norwegian",
	weekdays: [7]string{"søndag sundag; søn", "mandag måndag; man", "tirsdag tysdag; tir tirs", "onsdag; ons", "torsdag; tor tors", "fredag; fre", "lørdag laurdag; lør"},
	months:   [12]string{"januar; jan", "februar; feb", "mars; mar", "april; apr", "mai", "juni; jun", "juli; jul", "august; aug", "september; sep sept", "oktober; okt", "november; nov", "desember; des"},
	numbers:  [12]string{"en ett ei én", "to", "tre", "fire", "fem", "seks", "syv sju", "åtte", "ni", "ti", "elleve", "tolv"},
	joined:   "morgen=morning formiddag=morning ettermiddag=afternoon kveld=evening",
	plain:    "man on to ti so for fra den det de i at an er av og du vi se son tor fri lor",
	says:     "D #. M kl. C",
	rules: `
		i dag = today
		idag = today
		i kveld = tonight
		i ettermiddag = this afternoon
		i formiddag = this morning
		i dag tidlig = -
		i går = yesterday
		i morgen = tomorrow
		imorgen = tomorrow
		i morgen tidlig = tomorrow morning
		i morgen formiddag = tomorrow morning
		i morgen ettermiddag = tomorrow afternoon
		i morgen kveld = tomorrow evening
		i overmorgen = the day after tomorrow
		overmorgen = the day after tomorrow
		god morgen|kveld|dag = -
		D morgen|formiddag = D morning
		D ettermiddag = D afternoon
		D kveld = D evening
		om morgenen|formiddagen = in the morning
		om ettermiddagen = in the afternoon
		om kvelden = in the evening
		etter lunsj = after lunch
		klokken tolv = noon
		midnatt = midnight
		ved midnatt = midnight
		om # minutt|minutter|min = in # min
		om # time|timer|t = in # hours
		om # dag|dager = in # days
		om # uke|uker = in # weeks
		om fjorten dager = in a fortnight
		om # måned|måneder = in # months
		om # år = in # years
		om # virkedag|virkedager|arbeidsdag|arbeidsdager = in # working days
		om en halv time = in half an hour
		om en halvtime = in half an hour
		en? halv time = half an hour
		en? halvtime = half an hour
		halvannen time = 1.5 hours
		om halvannen time = in 1.5 hours
		i # time|timer = for # hours
		i # minutt|minutter = for # min
		# minutter|minutt = # min
		# timer|time = # hours
		# dager|dag = # days
		# uker|uke = # weeks
		for # minutt|minutter|time|timer siden = -
		for # dag|dager siden = # days ago
		for # uke|uker siden = # weeks ago
		for # måned|måneder siden = # months ago
		for # år siden = # years ago
		neste D = next D
		førstkommende D = D
		på D = D
		nå på D = D
		til D = D
		forrige|sist D = last D
		forrige uke = last week
		forrige måned = last month
		i forgårs = the day before yesterday
		siden = since
		D neste uke = D next week
		D i neste uke = D next week
		D om en uke = D in a week
		i? neste uke = next week
		neste måned = next month
		neste år = next year
		begynnelsen av neste uke = next week
		slutten av uken|uka = end of the week
		slutten av neste uke = end of next week
		slutten av måneden = end of the month
		utgangen av måneden = end of the month
		slutten av neste måned = end of next month
		slutten av året = end of the year
		utgangen av M = last day of M
		første D i M = first D of M
		siste D i M = last D of M
		i? helgen|helga = the weekend
		neste helg = next weekend
		før|innen helgen|helga = before the weekend
		etter ferien = after the holidays
		uke # = week #
		kl|klokken|klokka .? halv # = half past #-1
		halv # = half past #-1
		kvart over # = quarter past #
		kvart på # = quarter to #
		fem på halv # = 25 past #-1
		fem over halv # = 25 to #
		ti på # = 10 to #
		ti over # = 10 past #
		fem på # = 5 to #
		fem over # = 5 past #
		kl|klokken|klokka .? C = at C
		kl|klokken|klokka .? C om morgenen = at C in the morning
		kl|klokken|klokka .? C om kvelden = at C in the evening
		kl|klokken|klokka .? C om ettermiddagen = at C in the afternoon
		kl|klokken|klokka .? C til|- kl? C = from T to T
		fra? kl? .? C til kl? .? C = from T to T
		mellom kl? .? C og C = from T to T
		fra? den? # . til # . M = from # to # M
		den # = on #
		den = on
		senest på? = by
		innen på? = by
		innen D = by D
		til og med = by
		inntil = until
		før D = before D
		hver D = every D
		hver uke = every week
		hver måned = every month
		hver dag = every day
		hver # . dag = every # days
		annenhver uke = every 2 weeks
		hver # . uke = every # weeks`,
}
