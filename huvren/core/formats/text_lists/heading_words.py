"""Headings of tables in other languages → the English word that the guess knows."""

_BY_WORD = {
    "red": "rot rouge rojo rosso vermelho rood czerwony красный 赤 红 紅 röd rød punainen červená piros kırmızı",
    "green": "grün gruen vert verde groen zielony зеленый зелёный 緑 绿 綠 grön grønn vihreä zelená zöld yeşil",
    "blue": "blau bleu azul blu azzurro blauw niebieski синий 青 蓝 藍 blå sininen modrá kék mavi",
    "yellow": "gelb jaune amarillo giallo amarelo geel żółty желтый жёлтый 黄",
    "black": "schwarz noir negro nero preto zwart czarny черный чёрный 黒 黑",
    "cyan": "cian ciano цан голубой 青色",
    "hue": "farbton teinte tono matiz tonalità tint odcień тон оттенок 色相",
    "saturation": "sättigung saettigung saturación saturazione saturação verzadiging nasycenie насыщенность 彩度 饱和度",
    "lightness": "helligkeit luminosité clarté luminosidad claridad luminosità luminosidade helderheid jasność светлота яркость 明度",
    "chroma": "buntheit croma",
    "name": "bezeichnung farbname nom nombre nome naam nazwa имя название наименование 名前 名称 名稱 namn navn nimi név ad",
    "color": "farbe couleur colore cor kleur kolor barwa цвет 色 颜色 顏色 färg farve väri barva szín renk",
    "code": "farbcode farbwert kode código codice код コード 代码",
    "group": "gruppe groupe grupo gruppo groep grupa группа グループ 组 grupp ryhmä",
    "alpha": "deckkraft opacité opacidad opacità opacidade dekking krycie прозрачность 不透明度",
    "description": "beschreibung descripción descrizione descrição omschrijving opis описание 説明 描述",
    "note": "bemerkung notiz notes remark remarks remarque nota notas note anmerkung opmerking uwaga примечание 備考 备注",
    "locked": "gesperrt verrouillé bloqueado bloccato",
}
ENGLISH = {word: english for english, words in _BY_WORD.items() for word in words.split()}
"""A heading in small letters → its English word."""
