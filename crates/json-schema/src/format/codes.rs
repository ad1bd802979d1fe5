//! Codes of currencies and countries, as they are in force in 2026.

/// ISO 4217, alphabetic codes; in upper case, as the standard writes them.
pub(super) fn is_currency(text: &str) -> bool {
    is_listed(CURRENCIES, text, 3)
}

/// ISO 3166-1, alpha-2 codes that are officially assigned; in upper case.
pub(super) fn is_country(text: &str) -> bool {
    is_listed(COUNTRIES, text, 2)
}

/// Whether `code` is among the codes of that length in `list`, which is sorted and has single spaces between them.
fn is_listed(list: &str, code: &str, length: usize) -> bool {
    code.len() == length && code.bytes().all(|byte| byte.is_ascii_uppercase()) && list.split(' ').any(|one| one == code)
}

const CURRENCIES: &str = "AED AFN ALL AMD AOA ARS AUD AWG AZN BAM BBD BDT BHD BIF BMD BND BOB BOV BRL BSD BTN BWP BYN BZD \
    CAD CDF CHE CHF CHW CLF CLP CNY COP COU CRC CUP CVE CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP \
    GBP GEL GHS GIP GMD GNF GTQ GYD HKD HNL HTG HUF IDR ILS INR IQD IRR ISK JMD JOD JPY KES KGS KHR \
    KMF KPW KRW KWD KYD KZT LAK LBP LKR LRD LSL LYD MAD MDL MGA MKD MMK MNT MOP MRU MUR MVR MWK MXN \
    MXV MYR MZN NAD NGN NIO NOK NPR NZD OMR PAB PEN PGK PHP PKR PLN PYG QAR RON RSD RUB RWF SAR SBD \
    SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TND TOP TRY TTD TWD TZS UAH UGX \
    USD USN UYI UYU UYW UZS VED VES VND VUV WST XAD XAF XAG XAU XBA XBB XBC XBD XCD XCG XDR XOF XPD \
    XPF XPT XSU XTS XUA XXX YER ZAR ZMW ZWG";

const COUNTRIES: &str = "AD AE AF AG AI AL AM AO AQ AR AS AT AU AW AX AZ BA BB BD BE BF BG BH BI BJ BL BM BN BO BQ \
    BR BS BT BV BW BY BZ CA CC CD CF CG CH CI CK CL CM CN CO CR CU CV CW CX CY CZ DE DJ DK DM \
    DO DZ EC EE EG EH ER ES ET FI FJ FK FM FO FR GA GB GD GE GF GG GH GI GL GM GN GP GQ GR GS \
    GT GU GW GY HK HM HN HR HT HU ID IE IL IM IN IO IQ IR IS IT JE JM JO JP KE KG KH KI KM KN \
    KP KR KW KY KZ LA LB LC LI LK LR LS LT LU LV LY MA MC MD ME MF MG MH MK ML MM MN MO MP MQ \
    MR MS MT MU MV MW MX MY MZ NA NC NE NF NG NI NL NO NP NR NU NZ OM PA PE PF PG PH PK PL PM \
    PN PR PS PT PW PY QA RE RO RS RU RW SA SB SC SD SE SG SH SI SJ SK SL SM SN SO SR SS ST SV \
    SX SY SZ TC TD TF TG TH TJ TK TL TM TN TO TR TT TV TW TZ UA UG UM US UY UZ VA VC VE VG VI \
    VN VU WF WS YE YT ZA ZM ZW";

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn codes_are_whole_words_of_the_lists() {
        assert_eq!((CURRENCIES.split(' ').count(), COUNTRIES.split(' ').count()), (178, 249));
        assert!(CURRENCIES.split(' ').all(is_currency) && COUNTRIES.split(' ').all(is_country));
        for text in ["", "eur", "EU", "EURO", "UR ", "ZZZ"] {
            assert!(!is_currency(text), "{text}");
        }
        for text in ["", "no", "N", "NOR", "ZZ", "D "] {
            assert!(!is_country(text), "{text}");
        }
    }
}
