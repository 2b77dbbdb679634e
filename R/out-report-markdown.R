# A report as Markdown, and from it, through pandoc, as DOCX.

write_markdown_report <- function(document, draft, path) {
  folder <- paste0(tools::file_path_sans_ext(path), "-figures")
  figures <- vapply(document_figures(document), `[[`, "", "file")
  if (length(figures) > 0) dir.create(folder, showWarnings = FALSE)
  for (figure in figures) write_safely(file.path(folder, basename(figure)), TRUE, function(draft) file.copy(figure, draft))
  writeLines(markdown_lines_of(document, utils::URLencode(basename(folder)), plain = TRUE), draft, useBytes = TRUE)
}

write_docx_report <- function(document, draft) {
  folder <- tempfile("report-")
  dir.create(folder)
  on.exit(unlink(folder, recursive = TRUE))
  source <- file.path(folder, "report.md")
  shown <- normalizePath(unique(dirname(vapply(document_figures(document), `[[`, "", "file"))))
  writeLines(markdown_lines_of(document, shown, plain = FALSE), source, useBytes = TRUE)
  reference <- if (is.null(document$settings$reference)) report_file("reference.docx") else document$settings$reference
  # Whole paths, before pandoc_convert() goes to the folder of its source.
  target <- file.path(normalizePath(dirname(draft)), basename(draft))
  options <- c("--reference-doc", normalizePath(reference), "--metadata", paste0("lang=", document$settings$language))
  rmarkdown::pandoc_convert(source, to = "docx", from = "markdown-implicit_figures-yaml_metadata_block-raw_html-tex_math_dollars-citations",
    output = target, options = options)
}

# shown: what the text calls the figures' folder. plain: for readers of Markdown; else with
# pandoc's styles.
markdown_lines_of <- function(document, shown, plain) {
  settings <- document$settings
  c(
    styled("Title", settings$title, plain, "# "), if (nzchar(settings$author)) styled("Author", settings$author, plain),
    if (plain) unlist(lapply(document$blocks, markdown_block, settings = settings, shown = shown, plain = TRUE)) else
      docx_lines(document$blocks, settings, shown)
  )
}

# Blocks for Word; what is too wide for an upright page stands on pages that lie on their side.
docx_lines <- function(blocks, settings, shown) {
  # A typewriter's letters within a sentence are larger than the rest: what stands in them is quoted.
  blocks <- rapply(lapply(blocks, unclass), function(x) gsub("`([^`]*)`", "\"\\1\"", x), classes = "character", how = "replace")
  wide <- vapply(blocks, is_wide, TRUE)
  before <- c(FALSE, wide[-length(wide)])
  unlist(lapply(seq_along(blocks), function(i) {
    c(if (wide[i] && !before[i]) page_turn(FALSE), if (!wide[i] && before[i]) page_turn(TRUE),
      markdown_block(blocks[[i]], settings = settings, shown = shown, plain = FALSE), if (wide[i] && i == length(blocks)) page_turn(TRUE))
  }))
}

# The end of a section whose pages were upright, or lay on their side.
page_turn <- function(sideways) {
  size <- if (sideways) "<w:pgSz w:w=\"16838\" w:h=\"11906\" w:orient=\"landscape\"/>" else "<w:pgSz w:w=\"11906\" w:h=\"16838\"/>"
  raw_word(paste0("<w:p><w:pPr><w:sectPr>", size, "<w:pgMar w:top=\"1134\" w:right=\"1134\" w:bottom=\"1134\" w:left=\"1134\" w:header=\"709\" ",
    "w:footer=\"709\" w:gutter=\"0\"/></w:sectPr></w:pPr></w:p>"))
}

raw_word <- function(xml) c("```{=openxml}", xml, "```", "")

# A caption that Word counts and lists: a field of its own for each kind, with the number that it has here.
word_caption <- function(kind, number, text, style) {
  field <- paste0("<w:fldSimple w:instr=\" SEQ ", kind, " \\* ARABIC \"><w:r><w:rPr><w:b/></w:rPr><w:t>", number, "</w:t></w:r></w:fldSimple>")
  raw_word(paste0("<w:p><w:pPr><w:pStyle w:val=\"", style, "\"/>", if (style == "TableCaption") "<w:keepNext/>", "</w:pPr><w:r><w:rPr><w:b/></w:rPr>",
    "<w:t xml:space=\"preserve\">", kind, " </w:t></w:r>", field, "<w:r><w:t xml:space=\"preserve\"> ", escape_html(text), "</w:t></w:r></w:p>"))
}

styled <- function(style, text, plain, mark = "") {
  if (plain) c(paste0(mark, escape_markdown(text)), "") else c(paste0("::: {custom-style=\"", style, "\"}"), escape_markdown(text), ":::", "")
}

# Characters that would mean something; `code` stays as it is.
escape_markdown <- function(text) {
  text <- gsub("(`[^`]*`)(*SKIP)(*FAIL)|([\\\\*_{}\\[\\]<>#|$~^@])", "\\\\\\2", text, perl = TRUE)
  text <- gsub("^(\\s*)([-+])(\\s)", "\\1\\\\\\2\\3", text)
  gsub("^(\\s*\\d+)([.)])(\\s)", "\\1\\\\\\2\\3", text)
}

markdown_block <- function(b, settings, shown, plain) {
  words <- settings$words
  switch(b$kind,
    heading = c(paste(strrep("#", b$level + plain), escape_markdown(b$text)), ""), paragraph = c(escape_markdown(b$text), ""),
    bullets = c(paste("-", escape_markdown(b$items)), ""),
    answers = unlist(Map(function(q, a) c(paste0("**", escape_markdown(q), "** ", escape_markdown(a)), ""), b$questions, b$answers),
      use.names = FALSE),
    table = markdown_table(b, words, plain), figure = markdown_figure(b, words, shown, plain), code = c("```", b$lines, "```", "")
  )
}

markdown_table <- function(b, words, plain) {
  space <- if (plain) 100 else page_space(is_wide(b))
  width <- page_shares(b$columns, space)
  small <- !plain && sum(width) > space
  in_cell <- function(text) if (small) small_text(escape_markdown(text)) else escape_markdown(text)
  columns <- lapply(b$columns, in_cell)
  if (b$rows == 0) columns <- lapply(seq_along(columns), function(j) if (j == 1) words$none else "")
  names(columns) <- in_cell(names(b$columns))
  rule <- paste0(strrep("-", pmax(2, round(width) - 1)), ifelse(b$numeric, ":", "-"))
  table <- pipe_table(columns, rule)
  caption <- paste0("**", words$table, " ", b$number, "** ", escape_markdown(b$caption))
  note <- if (nzchar(b$note)) paste0("*", words$note, "* ", escape_markdown(b$note))
  if (plain) {
    return(c(caption, "", table, "", note, ""))
  }
  c(word_caption(words$table, b$number, b$caption, "TableCaption"), table, "",
    if (!is.null(note)) c("::: {custom-style=\"Table Note\"}", note, ":::", ""))
}

# Header, rule and rows of named columns of text.
pipe_table <- function(columns, rule) {
  rows <- do.call(paste, c(unname(columns), sep = " | "))
  paste0("| ", c(paste(names(columns), collapse = " | "), paste(rule, collapse = " | "), rows), " |")
}

# Characters that fit beside each other in a table of Word, upright and on its side.
page_space <- function(sideways) if (sideways) 170 else 112

# Too wide for an upright page, even where it is set small and every column is as narrow as its longest word.
is_wide <- function(b) b$kind == "table" && sum(narrowest(b$columns)) > 138

# A header is bold and often in capitals, hence one more.
narrowest <- function(columns) {
  longest <- function(text) max(nchar(unlist(strsplit(text, " ", fixed = TRUE)), "width"), 1)
  mapply(function(header, cells) max(longest(header) + 1, longest(cells)) + 3, names(columns), columns)
}

# Each column as wide as it wants to be where there is room; else what is over the narrowest is shared.
page_shares <- function(columns, space) {
  least <- narrowest(columns)
  wanted <- pmax(least, mapply(function(header, cells) min(60, max(nchar(c(header, cells), "width"), 1)) + 3, names(columns), columns))
  room <- if (sum(wanted) > space) 1.24 * space else space
  if (sum(wanted) <= room) {
    return(wanted)
  }
  if (sum(least) >= room) least else least + (room - sum(least)) * (wanted - least) / sum(wanted - least)
}

small_text <- function(text) ifelse(nzchar(text), paste0("[", text, "]{custom-style=\"Table Small\"}"), "")

markdown_figure <- function(b, words, shown, plain) {
  caption <- paste0("**", words$figure, " ", b$number, "** ", escape_markdown(b$caption))
  image <- paste0("![", escape_markdown(b$alt), "](", shown, "/", basename(b$file), ")", if (!plain) paste0("{width=", docx_figure_width(b), "in}"))
  c(image, "", if (plain) c(caption, "") else word_caption(words$figure, b$number, b$caption, "ImageCaption"))
}

# Inches: as wide as a page, but no higher than three quarters of one.
docx_figure_width <- function(b) {
  height <- figure_height(b$figure) / figure_width
  round(min(5.6, 7 / height), 2)
}
