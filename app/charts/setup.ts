import {
  BarElement,
  CategoryScale,
  Chart,
  Legend,
  LinearScale,
  LineElement,
  PointElement,
  Tooltip,
} from 'chart.js'

// Charts speak in the application's own face. Loaded with the first chart, not with the page.
Chart.register(BarElement, CategoryScale, Legend, LinearScale, LineElement, PointElement, Tooltip)
Chart.defaults.font.family = "'Atkinson Hyperlegible Next Variable', sans-serif"
Chart.defaults.font.size = 12
