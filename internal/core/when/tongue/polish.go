package tongue

// polish: "wpół do trzeciej" is half an hour before three, "za kwadrans piąta" a
// quarter to five; "do" is until, not Thursday, and "w" in.
var polish = Tongue{
	Name: "Polish",
	weekdays: [7]string{"niedziela niedzielę niedzieli; nd niedz", "poniedziałek poniedziałku; pon pn", "wtorek wtorku; wt", "środa środę środy; śr", "czwartek czwartku; czw", "piątek piątku; pt",
		"sobota sobotę soboty; sob"},
	months: [12]string{"styczeń stycznia styczniu; sty", "luty lutego lutym; lut", "marzec marca marcu; mar", "kwiecień kwietnia kwietniu; kwi", "maj maja maju", "czerwiec czerwca czerwcu; cze",
		"lipiec lipca lipcu; lip", "sierpień sierpnia sierpniu; sie", "wrzesień września wrześniu; wrz", "październik października październiku; paź", "listopad listopada listopadzie; lis", "grudzień grudnia grudniu; gru"},
	numbers: [12]string{"jeden jedna jedną pierwsza pierwszej", "dwa dwie druga drugiej", "trzy trzecia trzeciej", "cztery czwarta czwartej", "pięć piąta piątej", "sześć szósta szóstej", "siedem siódma siódmej",
		"osiem ósma ósmej", "dziewięć dziewiąta dziewiątej", "dziesięć dziesiąta dziesiątej", "jedenaście jedenasta jedenastej", "dwanaście dwunasta dwunastej"},
	genitive: true,
	plain:    "do on to i o w z a by ten ty my sie mi me na po za od so mar sob",
	says:     "D, # M, godz. C",
	rules: `
		dziś|dzisiaj = today
		dziś|dzisiaj wieczorem = tonight
		dziś|dzisiaj po południu = this afternoon
		dziś|dzisiaj rano = this morning
		jutro = tomorrow
		jutro rano = tomorrow morning
		jutro po południu = tomorrow afternoon
		jutro w południe = tomorrow noon
		jutro wieczorem = tomorrow evening
		do jutra = by tomorrow
		pojutrze = the day after tomorrow
		dzień dobry = -
		w? D rano = D morning
		w? D po południu = D afternoon
		w? D w południe = D noon
		w? D wieczorem = D evening
		rano = in the morning
		po południu = in the afternoon
		wieczorem = in the evening
		po obiedzie|lunchu = after lunch
		w południe = noon
		o? północy|północ = midnight
		za # minut|minuty|minutę|min = in # min
		za # godzin|godziny|godzinę|h = in # hours
		za godzinę = in 1 hours
		za # dni|dzień = in # days
		za # tygodnie|tygodni|tydzień = in # weeks
		za tydzień = in 1 weeks
		za miesiąc = in 1 months
		za # miesiące|miesięcy|miesiąc = in # months
		za rok = in 1 years
		za # lata|lat = in # years
		za # dni roboczych|robocze = in # working days
		za # dzień roboczy = in # working days
		za pół godziny = in half an hour
		pół godziny = half an hour
		za półtorej godziny = in 1.5 hours
		półtorej godziny = 1.5 hours
		przez # godzin|godziny|godzinę|h = for # hours
		przez # minut|minuty|minutę|min = for # min
		# minut|minuty = # min
		# godzin|godziny = # hours
		# dni|dzień = # days
		# tygodnie|tygodni = # weeks
		# minut|minuty|godzin|godziny temu = -
		# dni|dzień temu = # days ago
		# tygodnie|tygodni|tydzień temu = # weeks ago
		# miesiące|miesięcy|miesiąc temu = # months ago
		# lata|lat|rok temu = # years ago
		w? przyszły|przyszłą|następny|następną D = next D
		w? ten|tę|najbliższy|najbliższą D = D
		w? zeszły|zeszłą|ubiegły|ubiegłą|miniony|minioną D = last D
		wczoraj = yesterday
		przedwczoraj = the day before yesterday
		w zeszłym|ubiegłym tygodniu = last week
		w zeszłym|ubiegłym miesiącu = last month
		od = since
		w? D w przyszłym|następnym tygodniu = D next week
		w? D za tydzień = D in a week
		w przyszłym|następnym tygodniu = next week
		przyszły|następny tydzień = next week
		w przyszłym|następnym miesiącu = next month
		przyszły|następny miesiąc = next month
		w przyszłym|następnym roku = next year
		na początku przyszłego tygodnia = next week
		pod|do? koniec|końca tygodnia = by end of the week
		koniec tygodnia = end of the week
		do końca tygodnia = by end of the week
		do końca przyszłego tygodnia = by end of next week
		koniec przyszłego tygodnia = end of next week
		koniec miesiąca = end of the month
		do końca miesiąca = by end of the month
		do końca przyszłego miesiąca = by end of next month
		koniec przyszłego miesiąca = end of next month
		do końca roku = by end of the year
		koniec roku = end of the year
		do końca M = by last day of M
		koniec M = last day of M
		pierwszy|pierwsza D M = first D of M
		ostatni|ostatnia D M = last D of M
		w? weekend = the weekend
		w? przyszły weekend = next weekend
		przed weekendem = before the weekend
		po świętach|wakacjach|urlopie = after the holidays
		tydzień # = week #
		o? wpół do # = half past #-1
		za? kwadrans # = quarter to #
		za? pięć|5 # = 5 to #
		za? dziesięć|10 # = 10 to #
		kwadrans po # = quarter past #
		dziesięć|10 po # = 10 past #
		o|około|godz|godzina|godzinie C = at C
		o godz|godzinie .? C = at C
		godz . C = at C
		o C rano = at C in the morning
		o C wieczorem = at C in the evening
		o C po południu = at C in the afternoon
		od|między C do|a C = from T to T
		od # do # M = from # to # M
		we|w D = on D
		dnia # = #
		do C = until C
		do dnia # = by #
		do D = by D
		do # M = by # M
		najpóźniej do|w|we? = by
		przed D = before D
		co|każdy|każdą D = every D
		co tydzień = every week
		co miesiąc = every month
		codziennie = every day
		co # dni = every # days
		co # tygodnie|tygodni = every # weeks
		co # miesiące|miesięcy = every # months`,
}
