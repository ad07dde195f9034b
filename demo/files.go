package demo

import (
	"archive/zip"
	"bytes"
	"fmt"
	"html"
	"strings"
)

// pdf is a PDF (ISO 32000) with a page for each text, whose first line is its title.
func pdf(pages ...string) []byte {
	var b bytes.Buffer
	var at []int
	object := func(format string, args ...any) {
		at = append(at, b.Len())
		fmt.Fprintf(&b, "%d 0 obj\n%s\nendobj\n", len(at), fmt.Sprintf(format, args...))
	}
	b.WriteString("%PDF-1.4\n")
	var kids strings.Builder
	for i := range pages {
		fmt.Fprintf(&kids, "%d 0 R ", 4+2*i)
	}
	object("<< /Type /Catalog /Pages 2 0 R >>")
	object("<< /Type /Pages /Kids [%s] /Count %d >>", kids.String(), len(pages))
	object("<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica /Encoding /WinAnsiEncoding >>")
	escape := strings.NewReplacer(`\`, `\\`, "(", `\(`, ")", `\)`, "×", "\\327", "€", "\\200")
	for i, text := range pages {
		object("<< /Type /Page /Parent 2 0 R /MediaBox [0 0 420 595] /Resources << /Font << /F1 3 0 R >> >> /Contents %d 0 R >>", 5+2*i)
		var s strings.Builder
		s.WriteString("BT 40 540 Td 20 TL ")
		for n, line := range strings.Split(text, "\n") {
			size := 11
			if n == 0 {
				size = 16
			}
			fmt.Fprintf(&s, "/F1 %d Tf (%s) Tj T* ", size, escape.Replace(line))
		}
		s.WriteString("ET 40 40 340 515 re S")
		object("<< /Length %d >>\nstream\n%s\nendstream", s.Len(), s.String())
	}
	start := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(at)+1)
	for _, a := range at {
		fmt.Fprintf(&b, "%010d 00000 n \n", a)
	}
	fmt.Fprintf(&b, "trailer\n<< /Size %d /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n", len(at)+1, start)
	return b.Bytes()
}

// odt is a text in the OpenDocument format (ISO/IEC 26300).
func odt(lines ...string) []byte {
	var text strings.Builder
	for _, l := range lines {
		text.WriteString("<text:p>" + html.EscapeString(l) + "</text:p>")
	}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, part := range [][2]string{
		{"mimetype", "application/vnd.oasis.opendocument.text"},
		{"content.xml", `<?xml version="1.0" encoding="UTF-8"?><office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" office:version="1.2"><office:body><office:text>` + text.String() + `</office:text></office:body></office:document-content>`},
		{"META-INF/manifest.xml", `<?xml version="1.0" encoding="UTF-8"?><manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0" manifest:version="1.2"><manifest:file-entry manifest:full-path="/" manifest:media-type="application/vnd.oasis.opendocument.text"/><manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/></manifest:manifest>`},
	} {
		w, err := z.Create(part[0])
		if err == nil {
			_, err = w.Write([]byte(part[1]))
		}
		if err != nil {
			panic(err) // a buffer takes everything
		}
	}
	if err := z.Close(); err != nil {
		panic(err)
	}
	return b.Bytes()
}

// Files of the made-up correspondence.
var (
	crateDrawing = pdf("Predictor, crate 1: inner\nlength 152 cm, width 96 cm\nheight 104 cm, lid 6 cm\nfloor of two layers",
		"Predictor, crate 2: outer\nlength 158 cm, width 102 cm\nheight 118 cm with the lid, feet off\nheight 126 cm with the feet on\nweight 212 kg with its load",
		"Where the belts go\ntwo belts at 40 cm from each end\nno belt over the glass")
	crateTable   = "crate,length cm,width cm,height cm,weight kg\n1,152,96,104,38\n2,158,102,118,212\n3,80,60,55,24\n"
	permit       = pdf("Quay permit 4471", "Town Harbour Office\nVehicle: one lorry, 7.5 tonnes, Coastline Couriers\nBerth 9, from 6:00 to 10:00\nTo be signed on this page and returned by 15:00")
	panels       = pdf("Wall panels 1 to 12, round one", "Panel 6: the names of the computers\nA. Lindqvist, B. Ferran, C. Osei\nPanel 7: How the sea was counted")
	panelsTwo    = pdf("Wall panels 1 to 12, round two", "Panel 6: the names of the computers\nA. Lindqvist, Beatriz Ferran-Oliveira, C. Osei\nPanel 7: How the sea was counted")
	customsForm  = pdf("Customs form T-80, lagoon map", "Page 3: value in both currencies\n€ 48,000.00, insured with Nordkai Mutual\nBroker: Hallgren Shipping, tel. +46 8 555 0118")
	clauseA      = odt("Clause 7, version A", "The borrower returns the instrument by sea, at its own cost, within 30 days.")
	clauseB      = odt("Clause 7, version B", "The lender may ask for a return by road. The cost is shared in equal parts.")
	signedPage   = pdf("Loan agreement, last page", "Signed: Halvard Lindqvist, Morvik\nWitness: Ada Lindqvist")
	springBill   = pdf("Kestrel Print Works\nInvoice 2231", "Season folder, 4,000 copies, folded\nNet € 1,040.00\nTotal € 1,248.00, due in 30 days\nAccount of Kestrel Print Works, reference 2231")
	guestContact = "BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Oona Varga\r\nORG:Varga Travel\r\nTEL;TYPE=cell:+46 70 555 0142\r\nEMAIL:oona@vargatravel.example\r\nNOTE:after six only by phone\r\nEND:VCARD\r\n"
)
