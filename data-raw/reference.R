# The document whose styles a DOCX report takes: pandoc's own, with tables as psychology
# journals have them (rules above, below and under the head) and smaller cells. Run from the
# project's root; needs pandoc and zip.
folder <- tempfile("reference-")
dir.create(folder)
file <- file.path(folder, "reference.docx")
system2("pandoc", c("-o", file, "--print-default-data-file", "reference.docx"))
parts <- file.path(folder, "parts")
utils::unzip(file, exdir = parts)
path <- file.path(parts, "word", "styles.xml")
xml <- paste(readLines(path, warn = FALSE, encoding = "UTF-8"), collapse = "\n")
rule <- function(side, size) sprintf("<w:%s w:val=\"single\" w:sz=\"%d\" w:space=\"0\" w:color=\"22302F\"/>", side, size)
start <- regexpr("<w:style w:type=\"table\"[^>]*w:styleId=\"Table\">", xml)
before <- substr(xml, 1, start - 1)
table <- substr(xml, start, nchar(xml))
table <- sub("<w:tblPr>", paste0("<w:tblPr><w:tblBorders>", rule("top", 12), rule("bottom", 12), "</w:tblBorders>"), table, fixed = TRUE)
# Narrow gaps between columns.
for (side in c("left", "right")) {
  table <- sub(sprintf("<w:%s w:w=\"108\" w:type=\"dxa\" />", side), sprintf("<w:%s w:w=\"50\" w:type=\"dxa\" />", side), table, fixed = TRUE)
}
xml <- paste0(before, table)
compact <- "<w:style w:type=\"paragraph\" w:customStyle=\"1\" w:styleId=\"Compact\">"
at <- regexpr(compact, xml, fixed = TRUE)
tail <- substr(xml, at, nchar(xml))
tail <- sub("</w:pPr>", "</w:pPr><w:rPr><w:sz w:val=\"17\"/><w:szCs w:val=\"17\"/></w:rPr>", tail, fixed = TRUE)
xml <- paste0(substr(xml, 1, at - 1), tail)
note <- paste0("<w:style w:type=\"paragraph\" w:customStyle=\"1\" w:styleId=\"TableNote\"><w:name w:val=\"Table Note\"/>",
  "<w:basedOn w:val=\"BodyText\"/><w:qFormat/><w:pPr><w:spacing w:before=\"60\" w:after=\"240\"/></w:pPr>",
  "<w:rPr><w:sz w:val=\"17\"/><w:szCs w:val=\"17\"/></w:rPr></w:style>")
# For the cells of wide tables.
small <- paste0("<w:style w:type=\"character\" w:customStyle=\"1\" w:styleId=\"TableSmall\"><w:name w:val=\"Table Small\"/>",
  "<w:basedOn w:val=\"DefaultParagraphFont\"/><w:qFormat/><w:rPr><w:sz w:val=\"14\"/><w:szCs w:val=\"14\"/></w:rPr></w:style>")
xml <- sub("</w:styles>", paste0(note, small, "</w:styles>"), xml, fixed = TRUE)
writeLines(xml, path, useBytes = TRUE)
target <- file.path(getwd(), "inst", "report", "reference.docx")
unlink(target)
withr::with_dir(parts, utils::zip(target, list.files(".", recursive = TRUE, all.files = TRUE), flags = "-q9X"))
