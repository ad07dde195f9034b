package tongue

// german: "halb drei" is half an hour before three, and "vor 3 Tagen" lies behind.
var german = Tongue{
	Name: "German",
	weekdays: [7]string{"sonntag sonntags; so", "montag montags; mo", "dienstag dienstags; di", "mittwoch mittwochs; mi", "donnerstag donnerstags; do", "freitag freitags; fr",
		"samstag samstags sonnabend; sa"},
	months: [12]string{"januar jänner jaenner; jan", "februar feber; feb", "märz maerz; mär mrz", "april; apr", "mai", "juni; jun", "juli; jul", "august; aug", "september; sep sept", "oktober; okt", "november; nov",
		"dezember; dez"},
	numbers:  [12]string{"ein eins eine einem einer einen", "zwei", "drei", "vier", "fünf fuenf", "sechs", "sieben", "acht", "neun", "zehn", "elf", "zwölf zwoelf"},
	joined:   "abend=evening nachmittag=afternoon mittag=noon morgen=morning vormittag=morning früh=morning frueh=morning nacht=evening",
	capitals: true,
	plain:    "so do am an er man die war mit mi es der den dem das um ist du im in ja nur war sein",
	says:     "D, #. M, C",
	rules: `
		heute = today
		heute abend|nacht = tonight
		heute nachmittag = this afternoon
		heute morgen|früh|frueh|vormittag = this morning
		heute mittag = today noon
		morgen = tomorrow
		morgen früh|frueh|vormittag = tomorrow morning
		morgen abend = tomorrow evening
		morgen nachmittag = tomorrow afternoon
		morgen mittag = tomorrow noon
		übermorgen|uebermorgen = the day after tomorrow
		guten|guter morgen|abend|tag = -
		am morgen|vormittag = in the morning
		morgens|vormittags|früh = in the morning
		nachmittags|abends am? = in the evening
		nachmittags = in the afternoon
		am nachmittag = in the afternoon
		vormittag = morning
		nachmittag = afternoon
		abend = evening
		am abend = in the evening
		nach dem? mittag|mittagessen = after lunch
		D morgen|vormittag|früh|frueh = D morning
		D nachmittag = D afternoon
		D mittag = D noon
		D abend = D evening
		mittags|mittag = noon
		mitternacht = midnight
		um mitternacht = midnight
		in # minute|minuten|min = in # min
		in # stunde|stunden|std|h = in # hours
		in # tag|tagen = in # days
		in # woche|wochen = in # weeks
		in # monat|monaten = in # months
		in # jahr|jahren = in # years
		in # arbeitstag|arbeitstagen|werktag|werktagen = in # working days
		in einer halben stunde = in half an hour
		in anderthalb|eineinhalb stunden = in 1.5 hours
		anderthalb|eineinhalb stunden = 1.5 hours
		eine halbe stunde = half an hour
		für|fuer # stunde|stunden|std|h = for # hours
		für|fuer # minute|minuten|min = for # min
		# minuten|minute = # min
		# stunden|stunde|std = # hours
		# tage|tag = # days
		# wochen|woche = # weeks
		# monate|monat = # months
		vor # minute|minuten|stunde|stunden = -
		vor # tag|tagen = # days ago
		vor # woche|wochen = # weeks ago
		vor # monat|monaten = # months ago
		vor # jahr|jahren = # years ago
		nächsten|nächster|nächste|nächstes|naechsten|naechste|naechster D = next D
		kommenden|kommender|diesen|dieser am? D = D
		letzten|letzter|vorigen|vergangenen D = last D
		gestern = yesterday
		vorgestern = the day before yesterday
		letzte|letzter|vorige woche = last week
		letzten|vorigen monat = last month
		seit dem? = since
		D nächste|nächster|naechste|naechster woche = D next week
		D in einer woche|wochen = D in a week
		D in acht tagen = D in a week
		nächste|nächster|nächsten|naechste|naechster|naechsten|kommende|kommender|kommenden woche = next week
		nächsten|nächster|naechsten monat = next month
		nächstes|naechstes jahr = next year
		anfang nächster|naechster|kommender woche = next week
		ende der|dieser? woche = end of the week
		ende nächster|naechster|kommender woche = end of next week
		bis ende nächster|naechster woche = until end of next week
		ende des|dieses? monats|monat = end of the month
		monatsende = end of the month
		ende nächsten|naechsten monats = end of next month
		ende des|dieses? jahres = end of the year
		jahresende = end of the year
		letzter tag im M = last day of M
		ende M = last day of M
		erster D im M = first D of M
		letzter D im M = last D of M
		am? wochenende = the weekend
		nächstes|naechstes wochenende = next weekend
		vor dem wochenende = before the weekend
		nach den ferien|feiertagen = after the holidays
		nach dem urlaub = after the holidays
		kw # = week #
		halb # uhr? = half past #-1
		viertel nach # = quarter past #
		viertel vor # = quarter to #
		dreiviertel # = quarter to #
		viertel # = quarter past #-1
		fünf|fuenf vor halb # = 25 past #-1
		fünf|fuenf nach halb # = 25 to #
		fünf|fuenf vor # = 5 to #
		fünf|fuenf nach # = 5 past #
		zehn vor # = 10 to #
		zehn nach # = 10 past #
		zwanzig vor # = 20 to #
		zwanzig nach # = 20 past #
		um|gegen|ab C uhr? = at C
		C uhr = C
		um|gegen|ab C uhr? morgens|früh = at C in the morning
		C uhr morgens|früh = C in the morning
		um|gegen|ab C uhr? abends = at C in the evening
		C uhr abends = C in the evening
		um|gegen|ab C uhr? nachmittags = at C in the afternoon
		um halb # = half past #-1
		von|zwischen C bis|und C uhr = from T to T
		vom # . bis|- # . M = from # to # M
		am|den D = on D
		am = on
		den = on
		spätestens|spaetestens = by
		bis spätestens|zum|zu? am? = by
		bis = by
		vor dem? D = before D
		jeden|jede|jedes D = every D
		jeden tag = every day
		jede woche = every week
		jeden monat = every month
		alle # tage = every # days
		alle # wochen = every # weeks
		alle # monate = every # months`,
}
