"""The endings of the files that can be written, by what is in them."""

PICTURE_ENDINGS = (".png", ".svg", ".pdf")
DOCUMENT_ENDINGS = (".docx", ".pptx")
CHART_ENDINGS = (*PICTURE_ENDINGS, ".html", *DOCUMENT_ENDINGS, ".xlsx")  # a page, document or workbook around a picture
TABLE_ENDINGS = (".csv", ".json", ".md", ".xlsx", ".parquet", ".html", *DOCUMENT_ENDINGS)
RECORD_ENDINGS = (".arrow", ".csv", ".jsonl", ".parquet")
SURVEY_ENDINGS = (".xml", ".sss")  # of descriptions that may lie beside the records they describe
METADATA_ENDING = "-metadata.json"  # of CSV on the Web
DESCRIPTION_ENDINGS = (".json", *SURVEY_ENDINGS)  # of codebooks in open standards
CODEBOOK_ENDINGS = (".toml", *DESCRIPTION_ENDINGS)
REPORT_FORMATS = ("html", "md", "docx", "pptx", "pdf", "xlsx")
TOPLINE_FORMATS = tuple(one for one in REPORT_FORMATS if one != "md")  # Markdown shows pictures that lie beside it
