# Descriptions of data in open standards: DDI-Codebook 2.5 and the Frictionless table schema.

# The scored data described for an archive: each variable with its label, question, range,
# categories and summary.
write_ddi <- function(x, path, table, codebook, codes) {
  data <- main_data(x, table, TRUE)
  labels <- column_labels(data, codebook)
  title <- if (is.data.frame(x)) "Data" else say(x$about$title, "en")
  variables <- vapply(seq_along(data), function(j) ddi_variable(names(data)[j], data[[j]], labels[j], codebook), "")
  writeLines(c(
    "<?xml version=\"1.0\" encoding=\"UTF-8\"?>",
    paste0("<codeBook xmlns=\"ddi:codebook:2_5\" version=\"2.5\">"),
    paste0("  <stdyDscr><citation><titlStmt><titl>", escape_html(title), "</titl></titlStmt></citation>", ddi_processing(x), "</stdyDscr>"),
    paste0("  <fileDscr><fileTxt><dimensns><caseQnty>", nrow(data), "</caseQnty><varQnty>", ncol(data), "</varQnty></dimensns></fileTxt></fileDscr>"),
    "  <dataDscr>", variables, "  </dataDscr>", "</codeBook>"
  ), path, useBytes = TRUE)
}

# What was done to the answers.
ddi_processing <- function(x) {
  survey <- if (inherits(x, "sw_scores")) x$parts$source
  if (is.null(survey)) {
    return("")
  }
  log <- sw_log(survey)
  paste0("<method><dataColl><cleanOps>", escape_html(paste0(log$action, ": ", log$detail, collapse = "; ")), "</cleanOps></dataColl></method>")
}

# The codebook's row of a column, NULL for one that is no item.
item_row <- function(name, codebook) {
  row <- if (!is.null(codebook)) codebook$items[match(name, codebook$items$item), ]
  if (NROW(row) == 1 && !is.na(row$item)) row
}

ddi_variable <- function(name, values, label, codebook) {
  spec <- item_row(name, codebook)
  item <- !is.null(spec)
  none <- stands_for_none(values, spec)
  tag <- function(tag, text) if (length(text) == 0 || is.na(text)) "" else paste0("<", tag, ">", escape_html(text), "</", tag, ">")
  numeric <- is.numeric(values)
  seen <- values[!none]
  summary <- if (numeric && length(seen) > 0) {
    figures <- c(vald = length(seen), invd = sum(none), min = min(seen), max = max(seen), mean = mean(seen), stdev = stats::sd(seen))
    figures <- figures[!is.na(figures)]
    paste0("<sumStat type=\"", names(figures), "\">", format_plain(figures), "</sumStat>", collapse = "")
  } else {
    ""
  }
  categories <- if (is.factor(values)) levels(values) else if (item && length(unique(seen)) <= 20) sort(unique(seen), method = "radix") else NULL
  codes <- sort(unique(values[none & !is.na(values) & nzchar(trimws(values))]))
  counted <- vapply(c(categories, codes), function(v) sum(values %in% v), 0L)
  lacking <- rep(c("", " missing=\"Y\""), c(length(categories), length(codes)))
  words <- category_words(c(categories, codes), spec)
  paste0(
    "    <var ID=\"V_", gsub("[^A-Za-z0-9_.-]", "_", name), "\" name=\"", escape_html(name), "\" intrvl=\"", if (numeric && !item) "contin" else
      "discrete", "\">", tag("labl", label), if (item) paste0("<qstn>", tag("qstnLit", spec$wording), "</qstn>") else "",
    if (item && numeric && !is.na(spec$lowest)) paste0("<valrng><range min=\"", spec$lowest, "\" max=\"", spec$highest, "\"/></valrng>") else "",
    if (length(codes) > 0) paste0("<invalrng>", paste0("<item VALUE=\"", escape_html(as.character(codes)), "\"/>", collapse = ""), "</invalrng>"),
    summary,
    paste0("<catgry", lacking, "><catValu>", escape_html(as.character(c(categories, codes))), "</catValu>", words, "<catStat type=\"freq\">",
      counted, "</catStat></catgry>",
      recycle0 = TRUE, collapse = ""),
    if (!is.null(attr(values, "made_of"))) tag("codInstr", paste("made of", paste(attr(values, "made_of"), collapse = ", "))) else "",
    paste0("<varFormat type=\"", if (numeric) "numeric" else "character", "\"/>"), "</var>"
  )
}

# What the codebook calls each value, of an item or of any other column that has labels: answers, and codes for none.
category_words <- function(values, spec) {
  if (is.null(spec) || length(values) == 0) {
    return(character(length(values)))
  }
  labels <- parse_labels(spec$labels)
  codes <- missing_codes(spec$missing)
  why <- c(skipped = "skipped", unseen = "not shown", missing = "")[codes$kind]
  said <- c(stats::setNames(as.character(names(labels)), labels), stats::setNames(why, codes$code))[as.character(values)]
  ifelse(is.na(said) | !nzchar(said), "", paste0("<labl>", escape_html(said), "</labl>"))
}

# Frictionless Table Schema: a field a column.
write_table_schema <- function(data, path, codebook, overwrite) {
  labels <- column_labels(data, codebook)
  fields <- lapply(seq_along(data), function(j) {
    values <- data[[j]]
    spec <- item_row(names(data)[j], codebook)
    whole <- is.numeric(values) && all(values == round(values), na.rm = TRUE)
    bounds <- if (!is.null(spec) && !is.na(spec$lowest) && is.numeric(values)) list(minimum = spec$lowest, maximum = spec$highest)
    out <- list(name = names(data)[j], type = if (is.numeric(values)) if (whole) "integer" else "number" else if (is.logical(values)) "boolean" else
      "string")
    if (!is.na(labels[j])) out$title <- labels[j]
    if (is.factor(values)) bounds <- list(enum = levels(values))
    if (!is.null(bounds)) out$constraints <- bounds
    codes <- if (!is.null(spec)) setdiff(missing_codes(spec$missing)$code, "blank")
    if (length(codes) > 0) out$missingValues <- I(c("", codes))
    out
  })
  content <- list(`$schema` = "https://datapackage.org/profiles/2.0/tableschema.json", fields = fields, missingValues = I(""))
  write_safely(path, overwrite, function(draft) writeLines(jsonlite::toJSON(content, auto_unbox = TRUE, pretty = TRUE, digits = NA), draft))
}
