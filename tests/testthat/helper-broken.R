# Broken files and codebooks, made here. Each entry: a file name, its content
# (lines, or raw bytes), whether it is read as "data" or as "codebook", and what
# must come of it: the kind of a classed error, or "log: <words>" for a repair that
# the log states.

broken_book <- data.frame(item = c("a", "b", "c"), scale = "s", lowest = 1, highest = 5)

latin <- function(...) iconv(paste0(paste(c(...), collapse = "\n"), "\n"), "UTF-8", "latin1", toRaw = TRUE)[[1]]
bytes <- function(text) charToRaw(paste0(paste(text, collapse = "\n"), "\n"))
good_rows <- c("1,2,3", "2,3,4", "5,4,3")

broken_data <- function() {
  header <- "a,b,c"
  wide <- paste0("x", seq_len(1e5))
  list(
    list("empty.csv", raw(0), "file"),
    list("blank.csv", bytes(""), "file"),
    list("spaces.csv", bytes(c("   ", "  ")), NA),
    list("header-only.csv", bytes(header), "input"),
    list("nul-bytes.csv", c(bytes(header), as.raw(c(0x31, 0x2c, 0, 0x32))), "file"),
    list("nul-late.csv", c(bytes(c(header, rep("1,2,3", 20000))), as.raw(0), bytes("1,2,3")), NA),
    list("binary.csv", as.raw(0:255), "file"),
    list("utf16.csv", iconv(paste0("\ufeff", paste(c(header, good_rows), collapse = "\n")), "UTF-8", "UTF-16LE", toRaw = TRUE)[[1]], "log: UTF-16"),
    list("png.csv", as.raw(c(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 0, 0)), "file"),
    list("ragged-long.csv", bytes(c(header, "1,2,3", "1,2,3,4", "1,2,3")), "file"),
    list("ragged-short.csv", bytes(c(header, "1,2,3", "1,2", "1,2,3")), "file"),
    list("open-quote.csv", bytes(c(header, "1,\"2,3", "1,2,3")), "file"),
    list("open-quote-end.csv", bytes(c(header, "1,2,3", "1,2,\"3")), NA),
    list("stray-quote.csv", bytes(c(header, "1,2\"x,3", "1,2,3")), "input"),
    list("duplicated-name.csv", bytes(c("a,b,b", "1,2,3")), "input"),
    list("duplicated-item.csv", bytes(c("a,b,c,c", "1,2,3,3")), "input"),
    list("unnamed-column.csv", bytes(c("a,,c", "1,2,3")), "input"),
    list("misspelt-item.csv", bytes(c("a,b,cc", good_rows)), "input"),
    list("case-differs.csv", bytes(c("A,B,C", good_rows)), "input"),
    list("header-twice.csv", bytes(c(header, "1,2,3", header, "2,3,4")), "log: the header stands again"),
    list("header-thrice.csv", bytes(c(header, header, "1,2,3", header)), "log: the header stands again"),
    list("no-header.csv", bytes(good_rows), "input"),
    list("footer.csv", bytes(c(header, good_rows, "Total")), "file"),
    list("comment-first.csv", bytes(c("# made in May", header, good_rows)), "log: stands before the header"),
    list("formula.csv", bytes(c(header, "=1+1,2,3", "1,2,3")), "input"),
    list("formula-at.csv", bytes(c(header, "@SUM(A1),2,3")), "input"),
    list("script.csv", bytes(c(header, "<script>alert(1)</script>,2,3")), "input"),
    list("braces.csv", bytes(c(header, "{stop('x')},2,3")), "input"),
    list("text-answers.csv", bytes(c(header, "one,2,3", "1,two,3")), "input"),
    list("dates.csv", bytes(c(header, "2026-01-05,2,3", "2026-01-06,2,3")), "input"),
    list("spreadsheet-dates.csv", bytes(c(header, "05-Jan,2,3", "1,2,3")), "input"),
    list("times.csv", bytes(c(header, "10:30,2,3")), "input"),
    list("percent.csv", bytes(c(header, "50%,2,3")), "input"),
    list("currency.csv", bytes(c(header, "$5,2,3")), "input"),
    list("huge.csv", bytes(c(header, "1e308,2,3", "1,2,3")), "input"),
    list("overflow.csv", bytes(c(header, "1e999,2,3", "1,2,3")), "input"),
    list("long-integer.csv", bytes(c(header, "12345678901234567890,2,3", "1,2,3")), "input"),
    list("out-of-range.csv", bytes(c(header, "0,2,6", "1,2,3")), "input"),
    list("negative.csv", bytes(c(header, "-1,2,3", "1,2,3")), "input"),
    list("usual-code.csv", bytes(c(header, "99,2,3", "1,2,3")), "log: 99 taken as missing in a"),
    list("two-codes.csv", bytes(c(header, "-9,2,3", "1,-8,3")), "log: -8 taken as missing in b"),
    list("infinite.csv", bytes(c(header, "Inf,2,3", "1,2,3")), "input"),
    list("not-a-number.csv", bytes(c(header, "NaN,2,3", "1,2,3")), NA),
    list("booleans.csv", bytes(c(header, "TRUE,2,3", "FALSE,2,3")), "input"),
    list("decimal-comma.csv", bytes(c("a;b;c", "1,0;2,0;3,0", "2,0;3,0;4,0")), "log: decimal comma"),
    list("latin1.csv", latin("a,b,c,name", "1,2,3,J\u00f6rg", "2,3,4,Zo\u00e9"), "log: read as Latin-1"),
    list("latin1-header.csv", latin("a,b,c,caf\u00e9", "1,2,3,x"), "log: read as Latin-1"),
    list("bom.csv", c(as.raw(c(0xef, 0xbb, 0xbf)), bytes(c(header, good_rows))), "log: 3 cases and 3 items"),
    list("windows-lines.csv", charToRaw("a,b,c\r\n1,2,3\r\n2,3,4\r\n"), "log: 2 cases and 3 items"),
    list("old-mac-lines.csv", charToRaw("a,b,c\r1,2,3\r2,3,4\r"), NA),
    list("mixed-lines.csv", charToRaw("a,b,c\r\n1,2,3\n2,3,4\r\n"), NA),
    list("no-final-newline.csv", charToRaw("a,b,c\n1,2,3\n2,3,4"), "log: 2 cases and 3 items"),
    list("quoted-numbers.csv", bytes(c(header, "\"1\",\"2\",\"3\"")), "log: 1 case and 3 items"),
    list("padded-numbers.csv", bytes(c(header, " 1 , 2 , 3 ")), "log: 1 case and 3 items"),
    list("all-missing.csv", bytes(c(header, ",,", ",,")), "log: 2 cases and 3 items"),
    list("another-study.csv", bytes(c("x1,x2,x3", good_rows)), "input"),
    list("wide.csv", bytes(c(paste(wide, collapse = ","), paste(rep(1, 1e5), collapse = ","))), "file"),
    list("deep-nesting.csv", bytes(c(header, paste0(strrep("(", 500), ",2,3"))), "input"),
    list("long-cell.csv", bytes(c(header, paste0(strrep("9", 5000), ",2,3"))), "input"),
    list("not-xlsx.xlsx", bytes("this is no workbook"), "file"),
    list("truncated.xlsx", utils::head(readBin(readxl::readxl_example("datasets.xlsx"), "raw", 1e6), 4000), "file"),
    list("not-sav.sav", bytes("$FL2 is how it should begin"), "file"),
    list("truncated.sav", utils::head(sav_bytes(), 300), "file"),
    list("not-dta.dta", bytes("<nothing of the kind>"), "file"),
    list("not-xpt.xpt", bytes("HEADER RECORD"), "file"),
    list("not-parquet.parquet", bytes("PAR1 and nothing more"), "file"),
    list("not-rds.rds", bytes("RDX3"), "file"),
    list("list.rds", rds_bytes(list(1, 2)), "file"),
    list("function.rds", rds_bytes(function() 1), "file")
  )
}

sav_bytes <- function() {
  path <- tempfile(fileext = ".sav")
  on.exit(unlink(path))
  haven::write_sav(data.frame(a = 1:3, b = 1:3, c = 1:3), path)
  readBin(path, "raw", 1e6)
}

rds_bytes <- function(x) {
  path <- tempfile(fileext = ".rds")
  on.exit(unlink(path))
  saveRDS(x, path)
  readBin(path, "raw", 1e6)
}

broken_codebooks <- function() {
  list(
    list("empty.csv", raw(0), "file"),
    list("header-only.csv", bytes("item,scale"), "codebook"),
    list("no-item.csv", bytes(c("name,scale", "a,s")), "codebook"),
    list("item-twice.csv", bytes(c("item,scale", "a,s", "a,s")), "codebook"),
    list("field-twice.csv", bytes(c("item,scale,scale", "a,s,t")), "codebook"),
    list("nameless.csv", bytes(c("item,scale", ",s")), "codebook"),
    list("reversed-without-range.csv", bytes(c("item,direction", "a,reversed")), "codebook"),
    list("range-upside-down.csv", bytes(c("item,lowest,highest", "a,5,1")), "codebook"),
    list("range-text.csv", bytes(c("item,lowest,highest", "a,one,five")), "codebook"),
    list("half-range.csv", bytes(c("item,lowest,highest", "a,1,")), "codebook"),
    list("unknown-role.csv", bytes(c("item,role", "a,star")), "codebook"),
    list("unknown-direction.csv", bytes(c("item,direction", "a,down")), "codebook"),
    list("misspelt-field.csv", bytes(c("item,directon", "a,forward")), "codebook"),
    list("key-not-an-option.csv", bytes(c("item,answer,options", "a,E,A B C")), "codebook"),
    list("bad-labels.csv", bytes(c("item,labels", "a,Never and always")), "codebook"),
    list("ragged.csv", bytes(c("item,scale", "a,s,extra", "b,s")), "file"),
    list("not-yaml.yml", bytes(c("item: [a", "b")), "file"),
    list("tags.yml", bytes(c("- item: !!python/object:os.system a")), NA),
    list("code-tag.yml", bytes(c("- item: !expr stop('run')")), NA),
    list("scalar.yml", bytes("just a word"), "codebook"),
    list("anchors.yml", bytes(c("- &a {item: *a}")), NA),
    list("binary.yml", as.raw(0:40), "file"),
    list("not-xlsx.xlsx", bytes("no workbook"), "file")
  )
}
