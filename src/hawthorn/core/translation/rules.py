"""Where sentences end in the languages of the museum, as SRX 2.0; other rules may be named in the settings."""

SRX = r"""<?xml version="1.0" encoding="UTF-8"?>
<srx xmlns="http://www.lisa.org/srx20" version="2.0">
  <header segmentsubflows="yes" cascade="yes">
    <formathandle type="start" include="no"/>
    <formathandle type="end" include="yes"/>
    <formathandle type="isolated" include="no"/>
  </header>
  <body>
    <languagerules>
      <languagerule languagerulename="English">
        <rule break="no">
          <beforebreak>\b(?:Mr|Mrs|Ms|Dr|Prof|St|Nos?|vs|[Ff]ig|[Vv]ol|[Aa]pprox|[Cc]a?|nr|e\.g|i\.e|a\.m|p\.m)\.</beforebreak>
          <afterbreak>\s</afterbreak>
        </rule>
      </languagerule>
      <languagerule languagerulename="French">
        <rule break="no">
          <beforebreak>\b(?:MM?|Mmes?|Mlle|Dr|Prof|St|Ste|[Nn]|p\. ?ex|env|[Ff]ig|[Vv]ol|av|apr|[Cc]f|éd)\.</beforebreak>
          <afterbreak>\s</afterbreak>
        </rule>
      </languagerule>
      <languagerule languagerulename="German">
        <rule break="no">
          <beforebreak>\b(?:Dr|Prof|Hr|Fr|St|Nr|Bd|[Aa]bb|[Cc]a|bzw|usw|vgl|ff|[Zz]\. ?[Bb]|[Dd]\. ?[Hh]|[Uu]\. ?[Aa]|[Ss]\. ?[Oo])\.</beforebreak>
          <afterbreak>\s</afterbreak>
        </rule>
        <!-- "am 3. Mai": a number with a point is an ordinal. -->
        <rule break="no">
          <beforebreak>\b\d{1,2}\.</beforebreak>
          <afterbreak>\s+\p{L}</afterbreak>
        </rule>
      </languagerule>
      <languagerule languagerulename="Eastern">
        <!-- What somebody said goes on with who said it. -->
        <rule break="no">
          <beforebreak>[。！？]+[」』”]+</beforebreak>
          <afterbreak>[とっ]</afterbreak>
        </rule>
        <rule break="yes">
          <beforebreak>[。！？]+[」』）”]*</beforebreak>
          <afterbreak>[^。！？」』）”\s]|\s</afterbreak>
        </rule>
      </languagerule>
      <languagerule languagerulename="Arabic">
        <rule break="no">
          <beforebreak>\b(?:د|أ|ص|م|هـ|ق\.م)\.</beforebreak>
          <afterbreak>\s</afterbreak>
        </rule>
        <rule break="yes">
          <beforebreak>[.!?؟۔…]+["'”’»)\]]*</beforebreak>
          <afterbreak>\s</afterbreak>
        </rule>
      </languagerule>
      <languagerule languagerulename="Western">
        <!-- An initial: "J. Vane". -->
        <rule break="no">
          <beforebreak>\b\p{Lu}\.</beforebreak>
          <afterbreak>\s</afterbreak>
        </rule>
        <rule break="yes">
          <beforebreak>[.!?…]+["'”’»)\]]*</beforebreak>
          <afterbreak>\s+(?:["'“‘«(\[¿¡]+\s*)?[\p{Lu}\p{Lt}\p{Lo}\p{N}]</afterbreak>
        </rule>
      </languagerule>
    </languagerules>
    <maprules>
      <languagemap languagepattern="en.*" languagerulename="English"/>
      <languagemap languagepattern="fr.*" languagerulename="French"/>
      <languagemap languagepattern="de.*" languagerulename="German"/>
      <languagemap languagepattern="(?:ja|zh).*" languagerulename="Eastern"/>
      <languagemap languagepattern="(?:ar|fa|ur).*" languagerulename="Arabic"/>
      <languagemap languagepattern="(?!ja|zh|ar|fa|ur).*" languagerulename="Western"/>
    </maprules>
  </body>
</srx>
"""
